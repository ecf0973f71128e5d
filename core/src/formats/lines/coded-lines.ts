import { readPointList, type PointOrder } from '../point-list/index.js';
import { FormatError } from '../format-error.js';
import { closedOff, type ReadLine } from './geojson-lines.js';

/** A code, then the number of a string. */
const STRING_NUMBER = /^(.*\S)\s+\d+$/;

/**
 * Lines of a list of surveyed points, in their order: points of one code that follow each other are a line, and a code that comes back
 * is a new one. A code with a number after it ("FENCE 2") is a string of its own, whose points may lie anywhere in the list. Common
 * practice, no source.
 * @throws FormatError
 */
export function readCodedLines(text: string, order: PointOrder, fileName: string): ReadLine[] {
  const lines: { layer: string; corners: [number, number, number][] }[] = [];
  const strings = new Map<string, (typeof lines)[number]>();
  const begin = (layer: string): (typeof lines)[number] => {
    const line = { layer, corners: [] };
    lines.push(line);
    return line;
  };
  let run: (typeof lines)[number] | undefined;
  for (const { code, easting, northing, elevation } of readPointList(text, order, fileName)) {
    const [, name] = STRING_NUMBER.exec(code) ?? [];
    let line = name === undefined ? (run?.layer === code ? run : undefined) : strings.get(code);
    line ??= begin(name ?? code);
    if (name !== undefined) strings.set(code, line);
    run = name === undefined ? line : undefined;
    line.corners.push([easting, northing, elevation]);
  }
  const kept = lines.filter(({ corners }) => corners.length > 1);
  if (kept.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} has no two consecutive points with the same code, so it has no line.`,
      fix: 'Give points that make a line the same code, one after the other.',
    });
  return kept.map(({ layer, corners }) => closedOff(corners, layer));
}
