import type { LengthUnit } from '../../geodesy/index.js';
import type { TerrainLine, Tin } from '../../terrain/index.js';
import { CLOSING_SECTIONS, dxfText, openingSections, polyline3d } from './dxf-text.js';

export const SURFACE_LAYER = { name: 'SURFACE-FACES', colour: 52 } as const;

/** Layers of the lines a surface was made with. */
const LINE_LAYERS = {
  breakline: { name: 'SURFACE-BREAKLINE', colour: 5 },
  soft: { name: 'SURFACE-BREAKLINE-SOFT', colour: 4 },
  boundary: { name: 'SURFACE-BOUNDARY', colour: 1 },
  hole: { name: 'SURFACE-HOLE', colour: 6 },
  water: { name: 'SURFACE-WATER', colour: 150 },
  river: { name: 'SURFACE-WATER-FLOWING', colour: 140 },
  contour: { name: 'SURFACE-CONTOUR-BY-HAND', colour: 34 },
  plain: { name: 'SURFACE-LINE', colour: 8 },
} as const;

/**
 * A surface as 3D faces, one a facet, and the lines it was made with as 3D polylines on layers by what they are; coordinates in
 * full. Corners of lines without an elevation of their own are left to the faces. Yields pieces of text, so that no drawing is held whole.
 */
export function* surfaceToDxf(
  { origin, easting, northing, elevation, facets }: Tin,
  unit: LengthUnit,
  lines: readonly TerrainLine[] = [],
): Generator<string> {
  const corner = (i: number): [number, number, number] => [
    easting[i]! + origin[0],
    northing[i]! + origin[1],
    elevation[i]!,
  ];
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const i of facets)
    corner(i).forEach((value, axis) => {
      min[axis] = Math.min(min[axis]!, value);
      max[axis] = Math.max(max[axis]!, value);
    });
  yield dxfText(
    openingSections(
      [SURFACE_LAYER, ...Object.values(LINE_LAYERS)],
      facets.length === 0 ? { min: [0, 0, 0], max: [0, 0, 0] } : { min, max },
      unit,
    ),
  );
  let text = '';
  for (let f = 0; f < facets.length; f += 3) {
    text += `0\n3DFACE\n8\n${SURFACE_LAYER.name}\n`;
    // A face has four corners; of a triangle the last is said twice.
    [0, 1, 2, 2].forEach((k, c) => {
      const [x, y, z] = corner(facets[f + k]!);
      text += `${10 + c}\n${x.toFixed(4)}\n${20 + c}\n${y.toFixed(4)}\n${30 + c}\n${z.toFixed(4)}\n`;
    });
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  for (const line of lines) {
    const layer = LINE_LAYERS[line.role].name;
    if (line.elevation.some(Number.isNaN)) continue;
    text += polyline3d(
      layer,
      line.easting.map((e, k) => [e, line.northing[k]!, line.elevation[k]!]),
      line.isClosed,
    );
  }
  yield text + dxfText(CLOSING_SECTIONS);
}
