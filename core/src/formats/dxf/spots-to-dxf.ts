import type { LengthUnit } from '../../geodesy/index.js';
import { CLOSING_SECTIONS, dxfText, openingSections } from './dxf-text.js';

/** A numbered point as it is written. */
export interface NumberedPoint {
  readonly number: string;
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  readonly code: string;
}

/** Points on one layer, their numbers and elevations as text beside them on two others; coordinates to `decimals`. */
export function* spotsToDxf(
  points: readonly NumberedPoint[],
  {
    layer,
    textHeight,
    decimals,
    unit,
  }: { readonly layer: string; readonly textHeight: number; readonly decimals: number; readonly unit: LengthUnit },
): Generator<string> {
  const name = layer.toUpperCase().replace(/[^A-Z0-9$_-]+/g, '-') || 'SPOTS';
  const layers = [
    { name, colour: 7 },
    { name: `${name}-NUMBER`, colour: 8 },
    { name: `${name}-ELEVATION`, colour: 3 },
  ];
  const of = (axis: 'easting' | 'northing' | 'elevation', pick: (a: number, b: number) => number): number =>
    points.map((p) => p[axis]).reduce(pick);
  const corner = (pick: (a: number, b: number) => number): [number, number, number] =>
    points.length === 0 ? [0, 0, 0] : [of('easting', pick), of('northing', pick), of('elevation', pick)];
  yield dxfText(openingSections(layers, { min: corner(Math.min), max: corner(Math.max) }, unit));
  let text = '';
  for (const p of points) {
    const place = (e: number, n: number): string =>
      `10\n${e.toFixed(decimals)}\n20\n${n.toFixed(decimals)}\n30\n${p.elevation.toFixed(decimals)}\n`;
    const words = (on: string, up: number, value: string): string =>
      `0\nTEXT\n8\n${on}\n${place(p.easting + textHeight / 2, p.northing + up)}40\n${textHeight}\n1\n${value}\n`;
    text += `0\nPOINT\n8\n${name}\n${place(p.easting, p.northing)}`;
    text += words(`${name}-NUMBER`, textHeight / 4, p.number);
    text += words(`${name}-ELEVATION`, -1.25 * textHeight, p.elevation.toFixed(decimals));
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  yield text + dxfText(CLOSING_SECTIONS);
}
