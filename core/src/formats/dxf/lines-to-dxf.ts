import type { LengthUnit } from '../../geodesy/index.js';
import { cornersOf, fillElevations, type FeatureCode, type LineShape } from '../../lines/index.js';
import { nearestColourIndex } from './colour-index.js';
import { CLOSING_SECTIONS, dxfText, openingSections, polyline3d } from './dxf-text.js';

/**
 * Lines as 3D polylines on the layers of their codes. Corners without an elevation take one between their neighbours; a line that has
 * none at all lies at 0, as drawings without elevations do. Yields pieces of text.
 */
export function* linesToDxf(
  lines: readonly (LineShape & { readonly of: FeatureCode })[],
  unit: LengthUnit,
): Generator<string> {
  const layers = new Map(
    lines.map(({ of }) => [
      of.layer,
      { name: of.layer, colour: nearestColourIndex(of.colour), isDashed: of.style !== 'solid' },
    ]),
  );
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  const drawn = lines.map((line) => ({
    layer: line.of.layer,
    isClosed: line.isClosed,
    corners: cornersOf(fillElevations(line)).map(({ e, n, z }) => [e, n, Number.isNaN(z) ? 0 : z] as const),
  }));
  for (const { corners } of drawn)
    for (const corner of corners)
      corner.forEach((value, axis) => {
        min[axis] = Math.min(min[axis]!, value);
        max[axis] = Math.max(max[axis]!, value);
      });
  const extent = drawn.length === 0 ? ([[0, 0, 0], [0, 0, 0]] as const) : ([min, max] as const); // prettier-ignore
  yield dxfText(openingSections([...layers.values()], { min: extent[0], max: extent[1] }, unit));
  let text = '';
  for (const { layer, corners, isClosed } of drawn) {
    text += polyline3d(layer, corners, isClosed);
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  yield text + dxfText(CLOSING_SECTIONS);
}
