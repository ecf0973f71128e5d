import { FormatError } from '../formats/format-error.js';
import type { Placement } from './placement.js';

/** Endings of world files beside a picture's own: first and last letter with a w, or the whole ending with one. */
export function isWorldFileName(name: string): boolean {
  return /\.(tfw|tifw|tiffw|jgw|jpgw|jpegw|pgw|pngw|wld)$/i.test(name);
}

/**
 * Reads a world file: six numbers, one a line: easting a column, northing a column, easting a row, northing a row, easting and
 * northing of the centre of the upper left pixel (an open convention of the trade, in use since the early nineties; GDAL documents it).
 * @throws FormatError `world-file-unreadable`
 */
export function readWorldFile(text: string, fileName: string): Placement {
  const words = text.trim().split(/\s+/);
  const numbers = words.map((word) => Number(word.replace(',', '.')));
  const bad = numbers.findIndex((value) => !Number.isFinite(value));
  if (words[0] === '' || numbers.length < 6 || bad !== -1)
    throw new FormatError('world-file-unreadable', {
      what:
        bad !== -1 && words[0] !== ''
          ? `“${words[bad]!.slice(0, 30)}” is no number.`
          : `It holds ${words[0] === '' ? 0 : numbers.length} numbers; a world file has six.`,
      where: fileName,
      fix: 'Write the file anew: six numbers, one a line.',
    });
  const [eastPerColumn, northPerColumn, eastPerRow, northPerRow, east, north] = numbers as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return {
    east: east - (eastPerColumn + eastPerRow) / 2,
    eastPerColumn,
    eastPerRow,
    north: north - (northPerColumn + northPerRow) / 2,
    northPerColumn,
    northPerRow,
  };
}

export function writeWorldFile(p: Placement): string {
  const numbers = [
    p.eastPerColumn,
    p.northPerColumn,
    p.eastPerRow,
    p.northPerRow,
    p.east + (p.eastPerColumn + p.eastPerRow) / 2,
    p.north + (p.northPerColumn + p.northPerRow) / 2,
  ];
  return numbers.map((value) => `${Number(value.toFixed(10))}\n`).join('');
}
