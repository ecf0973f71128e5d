import { rangeOver, type RampedMode } from './colour-mode';

export const byElevation = {
  id: 'elevation',
  name: 'Elevation',
  ramp: 'land',
  decimals: 2,
  unit: 'length',
  usualRange: [0, 100],
  rangeOf: (clouds) => rangeOver(clouds.map(({ source }) => source.elevationRange)),
  valuesOf: ({ integers, cloud, node: { count } }) => {
    const [scale, offset] = [cloud.scale[2], cloud.offset[2]];
    const out = new Float64Array(count);
    for (let i = 0; i < count; i++) out[i] = integers[2 * count + i]! * scale + offset;
    return out;
  },
} as const satisfies RampedMode;
