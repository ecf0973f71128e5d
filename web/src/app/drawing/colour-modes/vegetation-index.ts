import type { RampedMode } from './colour-mode';

/**
 * The normalised difference of near infrared and red: leaves send back much of the one and little of the other. After Rouse, Haas,
 * Schell and Deering 1974, "Monitoring vegetation systems in the Great Plains with ERTS", NASA SP-351, 309-317.
 */
export const byVegetationIndex = {
  id: 'vegetation-index',
  name: 'Vegetation index (NDVI)',
  column: 'infrared',
  isThere: ({ clouds }) => clouds.some(({ columns }) => columns.nearInfrared && columns.rgb),
  ramp: 'land',
  decimals: 2,
  unit: '',
  usualRange: [-0.2, 0.8],
  valuesOf: ({ columns, node: { count } }) => {
    const out = new Float64Array(count).fill(NaN);
    const bytes = columns.get('infrared');
    if (!bytes) return out;
    const infrared = new Uint16Array(bytes, 0, count);
    const red = new Uint16Array(bytes, 2 * count, count);
    for (let i = 0; i < count; i++) {
      const sum = infrared[i]! + red[i]!;
      if (sum > 0) out[i] = (infrared[i]! - red[i]!) / sum;
    }
    return out;
  },
} as const satisfies RampedMode;
