import proj4 from 'proj4';
import { PamperoError } from '../task/index.js';
import { metresPer, unitFromName, type LengthUnit } from './units.js';

/** Seven parameters to WGS 84 by position vector: metres, seconds of arc, parts per million. */
export type SevenParameters = readonly [number, number, number, number, number, number, number];

/**
 * Checks a system written as a PROJ string and finds its unit.
 * @throws PamperoError `crs-unknown` saying what is wrong with it
 */
export function checkDefinition(definition: string): { readonly definition: string; readonly unit: LengthUnit } {
  const text = definition.trim();
  const wrong = (what: string): PamperoError =>
    new PamperoError('crs-unknown', {
      what,
      fix: 'Write a projection as in "+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=GRS80 +units=m".',
    });
  const projection = /\+proj=(\S+)/.exec(text)?.[1];
  if (!projection) throw wrong('The definition has no +proj.');
  if (['longlat', 'latlong', 'geocent'].includes(projection))
    throw wrong(`+proj=${projection} is not a projection onto a plane.`);
  if (/\+nadgrids=(?!@?null)/.test(text)) throw wrong('Grids of shifts do not come with Pampero; use +towgs84.');
  const toMetre = /\+to_meter=(\S+)/.exec(text)?.[1];
  const named = /\+units=(\S+)/.exec(text)?.[1] ?? 'm';
  const unit =
    toMetre !== undefined
      ? (['metre', 'us-survey-foot', 'international-foot'] as const).find(
          (u) => Math.abs(metresPer(u) - Number(toMetre)) < 1e-9,
        )
      : unitFromName({ 'us-ft': 'US survey foot', ft: 'foot' }[named] ?? named);
  if (!unit) throw wrong(`The unit "${toMetre ?? named}" is none of metre, us-ft and ft.`);
  try {
    const [easting, northing] = proj4(text).inverse([0, 0]);
    if (Number.isNaN(easting) && Number.isNaN(northing)) throw new Error('no inverse');
  } catch {
    throw wrong(`No projection can be made from "${text}".`);
  }
  return { definition: text, unit };
}

/** A definition with its own shift to WGS 84 replaced by these parameters. */
export function withSevenParameters(definition: string, parameters: SevenParameters): string {
  return `${definition.replace(/\+(towgs84|datum|nadgrids)=\S+\s*/g, (whole, name) => (name === 'datum' ? ellipsoidOf(whole) : '')).trim()} +towgs84=${parameters.join(',')}`;
}

/** A datum named in a definition brings its ellipsoid along, which has to stay. */
function ellipsoidOf(datum: string): string {
  const name = datum.trim().slice('+datum='.length).toUpperCase();
  const ellipsoids: Readonly<Record<string, string>> = { WGS84: 'WGS84', NAD83: 'GRS80', NAD27: 'clrk66' };
  return ellipsoids[name] ? `+ellps=${ellipsoids[name]} ` : '';
}
