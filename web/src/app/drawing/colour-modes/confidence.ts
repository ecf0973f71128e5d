import { columnValues, type RampedMode } from './colour-mode';

export const byConfidence = {
  id: 'confidence',
  name: 'Confidence',
  column: 'confidence',
  isThere: ({ clouds }) => clouds.some(({ hasConfidence }) => hasConfidence),
  ramp: 'dusk',
  decimals: 2,
  unit: '',
  usualRange: [0, 1],
  valuesOf: (points) => columnValues(points, 'confidence', (bytes) => new Float32Array(bytes, 0, points.node.count)),
} as const satisfies RampedMode;
