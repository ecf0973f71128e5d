import { columnValues, type RampedMode } from './colour-mode';

/** How many returns its pulse has: where more than one comes back, there is something to see through. */
export const byReturnCount = {
  id: 'return-count',
  name: 'Returns per pulse',
  column: 'returns',
  ramp: 'dusk',
  decimals: 0,
  unit: '',
  usualRange: [1, 5],
  valuesOf: (points) => {
    const out = columnValues(points, 'returns', (bytes) => new Uint16Array(new Uint8Array(bytes)));
    // The upper four bits count the returns, the lower four say which one it is (LAS 1.4, point formats 6 to 10).
    for (let i = 0; i < out.length; i++) out[i] = Math.floor(out[i]! / 16);
    return out;
  },
} as const satisfies RampedMode;
