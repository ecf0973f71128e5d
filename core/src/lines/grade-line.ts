import { LineError } from './line-error.js';
import { sourceNumber, stationsOf, type LineShape } from './line-shape.js';

/**
 * Gives a line an even grade between two elevations, by plan distance along it; those left out are the ones it has.
 * @throws LineError `line-without-elevation` where an end has none and none is given
 */
export function gradeLine(line: LineShape, from?: number, to?: number): LineShape {
  const stations = stationsOf(line);
  const length = stations.at(-1)!;
  const last = line.easting.length - 1;
  const [a, b] = [from ?? line.elevation[0]!, to ?? line.elevation[line.isClosed ? 0 : last]!];
  if (Number.isNaN(a + b) || last < 0)
    throw new LineError('line-without-elevation', {
      what: 'An end of the line has no elevation.',
      fix: 'Type the elevations of both ends.',
    });
  return {
    ...line,
    elevation: line.elevation.map((_, k) => a + ((b - a) * stations[k]!) / (length || 1)),
    source: line.source.map((source, k) => {
      const isGiven = k === 0 ? from !== undefined : k === last && to !== undefined;
      return isGiven ? sourceNumber('typed') : k === 0 || k === last ? source : sourceNumber('between');
    }),
  };
}

/** Gives corners without an elevation one between their neighbours along the line; those before the first or after the last take its. */
export function fillElevations(line: LineShape): LineShape {
  const stations = stationsOf(line);
  const known = [...line.elevation.keys()].filter((k) => !Number.isNaN(line.elevation[k]!));
  if (known.length === 0 || known.length === line.elevation.length) return line;
  const elevation = line.elevation.slice();
  const source = line.source.slice();
  let next = 0;
  for (let k = 0; k < elevation.length; k++) {
    while (next < known.length && known[next]! < k) next++;
    if (known[next] === k) continue;
    const [a, b] = [known[next - 1], known[next]];
    const [before, after] = [a ?? b!, b ?? a!];
    const span = stations[after]! - stations[before]!;
    const share = span > 0 ? (stations[k]! - stations[before]!) / span : 0;
    elevation[k] = line.elevation[before]! + (line.elevation[after]! - line.elevation[before]!) * share;
    source[k] = sourceNumber('between');
  }
  return { ...line, elevation, source };
}
