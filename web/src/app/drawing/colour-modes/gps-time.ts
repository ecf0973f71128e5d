import { columnValues, type RampedMode } from './colour-mode';

export const byGpsTime = {
  id: 'gps-time',
  name: 'GPS time',
  column: 'gpsTime',
  isThere: ({ clouds }) => clouds.some(({ columns }) => columns.gpsTime),
  ramp: 'dusk',
  decimals: 1,
  unit: 's',
  usualRange: [0, 1],
  valuesOf: (points) => columnValues(points, 'gpsTime', (bytes) => new Float64Array(bytes)),
} as const satisfies RampedMode;
