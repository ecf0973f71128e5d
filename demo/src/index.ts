export { ensureDemoFiles } from './demo-files.js';
export type { DemoFiles } from './demo-files.js';
export { flyLidar, QUANTISATION } from './lidar-flight.js';
export { pnezd, surveyedPoints } from './control.js';
export type { SurveyedPoint } from './control.js';
export { CORNER, EXTENT, groundElevation, waterElevation } from './terrain.js';
