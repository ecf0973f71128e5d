export { flattenArc, flattenBulge, flattenSpline, splineFault, type CurvePlace, type Spline } from './flatten.js';
