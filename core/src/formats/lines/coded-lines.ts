import { readPointList, type PointOrder } from '../point-list/index.js';
import { FormatError } from '../format-error.js';
import { closedOff, type ReadLine } from './geojson-lines.js';

/**
 * Lines of a list of surveyed points: points of one code that follow each other, in their order, are a line; a code comes back
 * as a new line. Common practice, no source.
 * @throws FormatError
 */
export function readCodedLines(text: string, order: PointOrder, fileName: string): ReadLine[] {
  const lines: { layer: string; corners: [number, number, number][] }[] = [];
  for (const { code, easting, northing, elevation } of readPointList(text, order, fileName)) {
    const last = lines.at(-1);
    if (last?.layer === code) last.corners.push([easting, northing, elevation]);
    else lines.push({ layer: code, corners: [[easting, northing, elevation]] });
  }
  const kept = lines.filter(({ corners }) => corners.length > 1);
  if (kept.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} has no two consecutive points with the same code, so it has no line.`,
      fix: 'Give points that make a line the same code, one after the other.',
    });
  return kept.map(({ layer, corners }) => closedOff(corners, layer));
}
