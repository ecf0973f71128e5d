import type { ContourSet } from '../../contours/index.js';
import { CLOSING_SECTIONS, dxfText, openingSections, type Group } from './dxf-text.js';

/** Layer names of the contours; colours 34 (brown) and 32 are as near to the plan's as the index allows. */
export const CONTOUR_LAYERS = {
  index: { name: 'CONTOUR-INDEX', colour: 34 },
  intermediate: { name: 'CONTOUR-INTERMEDIATE', colour: 32 },
} as const;

const POLYLINE_CLOSED = 1;
const POLYLINE_3D = 8;
const VERTEX_3D = 32;

/**
 * Contours as 3D polylines at their elevation, index and intermediate ones on layers of their own. Coordinates in full, to
 * a tenth of a millimetre of a metre job. Yields pieces of text of about 64 kB, so that no drawing is held whole.
 */
export function* contoursToDxf(contours: ContourSet): Generator<string> {
  const { origin, level, isIndex, isClosed, starts, easting, northing } = contours;
  yield dxfText(openingSections(Object.values(CONTOUR_LAYERS), extentOf(contours)));
  let text = '';
  for (let l = 0; l < level.length; l++) {
    const layer = isIndex[l] ? CONTOUR_LAYERS.index.name : CONTOUR_LAYERS.intermediate.name;
    const z = level[l]!.toFixed(4);
    const flags = POLYLINE_3D | (isClosed[l] ? POLYLINE_CLOSED : 0);
    text += dxfText([
      [0, 'POLYLINE'],
      [8, layer],
      [66, 1],
      [10, 0],
      [20, 0],
      [30, 0],
      [70, flags],
    ] as Group[]);
    // A closed polyline returns to its first vertex by itself; the repeated one is left out.
    const end = starts[l + 1]! - (isClosed[l] ? 1 : 0);
    for (let v = starts[l]!; v < end; v++) {
      const e = (easting[v]! + origin[0]).toFixed(4);
      const n = (northing[v]! + origin[1]).toFixed(4);
      text += `0\nVERTEX\n8\n${layer}\n10\n${e}\n20\n${n}\n30\n${z}\n70\n${VERTEX_3D}\n`;
    }
    text += `0\nSEQEND\n8\n${layer}\n`;
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  yield text + dxfText(CLOSING_SECTIONS);
}

function extentOf({ origin, level, easting, northing }: ContourSet): {
  min: [number, number, number];
  max: [number, number, number];
} {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  const grow = (axis: 0 | 1 | 2, values: Float64Array, shift: number): void => {
    for (const value of values) {
      min[axis] = Math.min(min[axis], value + shift);
      max[axis] = Math.max(max[axis], value + shift);
    }
  };
  grow(0, easting, origin[0]);
  grow(1, northing, origin[1]);
  grow(2, level, 0);
  return level.length === 0 ? { min: [0, 0, 0], max: [0, 0, 0] } : { min, max };
}
