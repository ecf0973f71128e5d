import { columnValues, type RampedMode } from './colour-mode';

/** Standard deviation of each point's elevation, as its source or the georeferencing gives it. */
export const byAccuracy = {
  id: 'accuracy',
  name: 'Accuracy',
  column: 'accuracy',
  isThere: ({ clouds }) => clouds.some(({ hasAccuracy }) => hasAccuracy),
  ramp: 'dusk',
  decimals: 3,
  unit: 'length',
  usualRange: [0, 0.1],
  valuesOf: (points) => columnValues(points, 'accuracy', (bytes) => new Float32Array(bytes, 0, points.node.count)),
} as const satisfies RampedMode;
