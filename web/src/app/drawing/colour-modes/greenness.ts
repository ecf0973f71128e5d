import { greenness } from '@pampero/core/selection';
import { bandsOf, type RampedMode } from './colour-mode';

export const byGreenness = {
  id: 'greenness',
  name: 'Greenness',
  column: 'colour',
  isThere: ({ clouds }) => clouds.some(({ columns }) => columns.rgb),
  ramp: 'land',
  decimals: 2,
  unit: '',
  usualRange: [-0.1, 0.4],
  valuesOf: (points) => {
    const out = new Float64Array(points.node.count).fill(NaN);
    const [red, green, blue] = bandsOf(points) ?? [];
    if (!red || !green || !blue) return out;
    for (let i = 0; i < out.length; i++) out[i] = greenness(red[i]!, green[i]!, blue[i]!);
    return out;
  },
} as const satisfies RampedMode;
