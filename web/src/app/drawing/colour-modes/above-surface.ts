import { gridElevation } from '../grid-elevation';
import type { DrawnGrid } from '../grid-rasteriser';
import type { ColouredPoints, ModeSight, RampedMode } from './colour-mode';

/** How far each point lies over the surface that is shown; NaN beside it. */
function aboveSurface(
  { points: { x, y, z }, centre, node }: ColouredPoints,
  grid: DrawnGrid | undefined,
): Float64Array {
  const out = new Float64Array(node.count).fill(NaN);
  if (!grid) return out;
  const [cx, cy, cz] = centre;
  for (let i = 0; i < out.length; i++) out[i] = z[i]! + cz - gridElevation(grid, x[i]! + cx, y[i]! + cy);
  return out;
}

const common = {
  isThere: ({ hasSurface }: ModeSight) => hasSurface,
  unit: 'length',
  valuesOf: aboveSurface,
} as const;

/** What stands on the land, from the ground up. */
export const byHeight = {
  ...common,
  id: 'height',
  name: 'Height over the surface',
  ramp: 'dusk',
  decimals: 2,
  usualRange: [0, 15],
} as const satisfies RampedMode;

/** How well points and surface agree, above and below alike. */
export const byDifference = {
  ...common,
  id: 'difference',
  name: 'Difference to the surface',
  ramp: 'either-side',
  decimals: 3,
  usualRange: [-0.5, 0.5],
} as const satisfies RampedMode;
