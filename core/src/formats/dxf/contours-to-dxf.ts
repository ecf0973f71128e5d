import type { LengthUnit } from '../../geodesy/index.js';
import {
  contourLabels,
  depressionTicks,
  withoutLabels,
  type ContourLabel,
  type ContourSet,
  type LabelOptions,
} from '../../contours/index.js';
import { CLOSING_SECTIONS, dxfText, openingSections, polyline3d } from './dxf-text.js';

/** Layers of the contours; colours 34 (brown) and 32 are as near to the plan's as the index allows. */
export const CONTOUR_LAYERS = {
  index: { name: 'CONTOUR-INDEX', colour: 34 },
  intermediate: { name: 'CONTOUR-INTERMEDIATE', colour: 32 },
  obscured: { name: 'CONTOUR-OBSCURED', colour: 33, isDashed: true },
  depression: { name: 'CONTOUR-DEPRESSION', colour: 34 },
  label: { name: 'CONTOUR-LABEL', colour: 34 },
} as const;

const CENTRED = 1;
const MIDDLE = 2;

/**
 * Contours as 3D polylines at their elevation: index, intermediate and obscured ones on layers of their own, labels as text
 * with the line parted under them, ticks in depressions. Coordinates in full, to a tenth of a millimetre of a metre
 * job. Yields pieces of text of about 64 kB, so that no drawing is held whole.
 * @param labelling - undefined for lines without labels
 */
export function* contoursToDxf(contours: ContourSet, unit: LengthUnit, labelling?: LabelOptions): Generator<string> {
  const { origin, level, isIndex, isClosed, isObscured, starts, easting, northing } = contours;
  yield dxfText(openingSections(Object.values(CONTOUR_LAYERS), extentOf(contours), unit));
  const labels = labelling ? contourLabels(contours, labelling) : [];
  const ofLine = new Map<number, ContourLabel[]>();
  for (const label of labels) ofLine.set(label.line, [...(ofLine.get(label.line) ?? []), label]);
  let text = '';
  for (let l = 0; l < level.length; l++) {
    const layer = isObscured[l]
      ? CONTOUR_LAYERS.obscured
      : isIndex[l]
        ? CONTOUR_LAYERS.index
        : CONTOUR_LAYERS.intermediate;
    const own = ofLine.get(l);
    if (own) for (const piece of withoutLabels(contours, l, own)) text += polyline(layer.name, piece, level[l]!, false);
    else {
      // A closed polyline returns to its first vertex by itself; the repeated one is left out.
      const end = starts[l + 1]! - (isClosed[l] ? 1 : 0);
      const corners: [number, number][] = [];
      for (let v = starts[l]!; v < end; v++) corners.push([easting[v]!, northing[v]!]);
      text += polyline(layer.name, corners, level[l]!, isClosed[l] === 1);
    }
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  if (labelling) {
    const place = (code: number, e: number, n: number, z: number): string =>
      `${10 + code}\n${(e + origin[0]).toFixed(4)}\n${20 + code}\n${(n + origin[1]).toFixed(4)}\n${30 + code}\n${z.toFixed(4)}\n`;
    for (const { easting: e, northing: n, degrees, level: z } of labels)
      text +=
        `0\nTEXT\n8\n${CONTOUR_LAYERS.label.name}\n${place(0, e, n, z)}40\n${labelling.textHeight}\n1\n${z.toFixed(labelling.decimals)}\n` +
        `50\n${degrees.toFixed(3)}\n72\n${CENTRED}\n73\n${MIDDLE}\n${place(1, e, n, z)}`;
    for (const [ae, an, be, bn, z] of depressionTicks(contours, labelling.textHeight / 2, 4 * labelling.textHeight))
      text += `0\nLINE\n8\n${CONTOUR_LAYERS.depression.name}\n${place(0, ae, an, z)}${place(1, be, bn, z)}`;
  }
  yield text + dxfText(CLOSING_SECTIONS);

  function polyline(
    layer: string,
    corners: readonly (readonly [number, number])[],
    z: number,
    closes: boolean,
  ): string {
    return polyline3d(
      layer,
      corners.map(([e, n]) => [e + origin[0], n + origin[1], z]),
      closes,
    );
  }
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
