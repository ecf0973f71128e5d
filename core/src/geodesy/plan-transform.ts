import proj4 from 'proj4';
import { PamperoError } from '../task/index.js';

/** Longitude and latitude in degrees on WGS 84 as PROJ writes them (EPSG 4326, with longitude first). */
export const LONGITUDE_LATITUDE = '+proj=longlat +datum=WGS84 +no_defs';

/** Moves coordinates from one plane system to another, in place: n eastings and n northings in each system's own unit. */
export type PlanTransform = (easting: Float64Array, northing: Float64Array) => void;

/**
 * A transformation between two systems given as PROJ strings, by `proj4`: out of the first projection, across the datums by
 * the seven parameters the strings carry, into the second.
 * @throws PamperoError `crs-unknown` where a string cannot be read, `grid-missing` where the datums are tied by a grid of
 * shifts that does not come with Pampero; from the transform `outside-crs`, with the first point that has no place there
 */
export function planTransform(from: string, to: string): PlanTransform {
  const [fromGrid, toGrid] = [gridOf(from), gridOf(to)];
  if (fromGrid !== toGrid) {
    throw new PamperoError('grid-missing', {
      what: `The two datums are tied by the grid ${fromGrid ?? toGrid}, which is not included.`,
      fix: 'Transform the file with a program that has the grid, or make a job in the file’s own system.',
    });
  }
  let converter: proj4.Converter;
  try {
    converter = proj4(withoutGrid(from), withoutGrid(to));
  } catch (error) {
    throw new PamperoError(
      'crs-unknown',
      { what: `No transformation can be made from "${from}" to "${to}".`, fix: 'Choose another coordinate system.' },
      { cause: error },
    );
  }
  return (easting, northing) => {
    for (let i = 0; i < easting.length; i++) {
      const place = forward(converter, easting[i]!, northing[i]!);
      if (!place) {
        throw new PamperoError('outside-crs', {
          what: `Point ${i} at ${easting[i]}, ${northing[i]} cannot be transformed to the other system.`,
          fix: 'Check that the file is in the system it states, or use the coordinates as they are.',
        });
      }
      easting[i] = place[0];
      northing[i] = place[1];
    }
  };
}

function forward(converter: proj4.Converter, easting: number, northing: number): [number, number] | undefined {
  try {
    const [e, n] = converter.forward([easting, northing]);
    return Number.isFinite(e) && Number.isFinite(n) ? [e!, n!] : undefined;
  } catch {
    return undefined; // the library throws on what is no number
  }
}

/** The grid of shifts a datum is tied by, if it is one that does anything. */
function gridOf(definition: string): string | undefined {
  const grid = /\+nadgrids=(\S+)/.exec(definition)?.[1];
  return grid === undefined || /^@?null$/.test(grid) ? undefined : grid;
}

/** On one and the same datum its grid is of no account. */
function withoutGrid(definition: string): string {
  return definition.replace(/\+nadgrids=\S+/, '');
}
