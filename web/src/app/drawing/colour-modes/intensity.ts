import { columnValues, rangeOver, type RampedMode } from './colour-mode';

export const byIntensity = {
  id: 'intensity',
  name: 'Intensity',
  column: 'intensity',
  ramp: 'grey',
  decimals: 0,
  unit: '',
  usualRange: [0, 65_535],
  rangeOf: (clouds) => rangeOver(clouds.map(({ intensityRange }) => intensityRange)),
  valuesOf: (points) => columnValues(points, 'intensity', (bytes) => new Uint16Array(bytes)),
} as const satisfies RampedMode;
