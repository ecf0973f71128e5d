import type { Crs, CrsChoice } from '@pampero/contract';
import { checkDefinition, withSevenParameters, type LengthUnit } from '@pampero/core/geodesy';
import { crsByCode, findCrs } from './crs-catalogue.js';

/** A plane system that coordinates can be moved out of and into. */
export interface PlaneSystem {
  /** What the surveyor is told: "EPSG:5347". */
  readonly title: string;
  readonly epsg?: number;
  readonly proj4: string;
  readonly unit: LengthUnit;
  /** South, west, north, east of the area it is for, degrees. */
  readonly area?: readonly [number, number, number, number];
}

/** The system of a job or a file; undefined where it is local or not known. */
export function planeSystemOf(crs: Crs | undefined): PlaneSystem | undefined {
  if (crs?.definition) return { title: 'its own system', ...ownSystem(crs.definition) };
  const entry = findCrs(crs?.epsg);
  return entry?.proj4 === undefined ? undefined : catalogued(entry.epsg);
}

/** The system the surveyor said. @throws JobError, PamperoError where it is none */
export function chosenSystem(choice: CrsChoice): PlaneSystem {
  if ('epsg' in choice) return catalogued(choice.epsg);
  const { definition, sevenParameters } = choice;
  const own = ownSystem(definition);
  return {
    title: 'the system you defined',
    ...own,
    proj4: sevenParameters ? withSevenParameters(own.proj4, sevenParameters) : own.proj4,
  };
}

function ownSystem(definition: string): { proj4: string; unit: LengthUnit } {
  const checked = checkDefinition(definition);
  return { proj4: checked.definition, unit: checked.unit };
}

function catalogued(epsg: number): PlaneSystem {
  const { proj4, unit, bounds } = crsByCode(epsg);
  return { title: `EPSG:${epsg}`, epsg, proj4: proj4 ?? '', unit, ...(bounds && { area: bounds }) };
}
