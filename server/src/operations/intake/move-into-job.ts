import type { Crs } from '@pampero/contract';
import { lengthUnits, metresPer, type CrsDescription, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { planeSystemOf, type PlaneSystem } from '../../crs/plane-system.js';
import { statedCrs } from '../../crs/stated-crs.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import type { LasFacts } from '../../tasks/reading-tasks.js';
import type { TaskPool } from '../../tasks/task-pool.js';

/** What is done to elevations on the way in. */
export interface HeightChange {
  readonly unit: LengthUnit | undefined;
  /** Added, in the job's unit. */
  readonly shift: number;
  /** A GTX file: heights above the ellipsoid become heights above the geoid. */
  readonly geoid: { readonly name: string; readonly path: string } | undefined;
}

/** What decides how a file's coordinates become the job's. */
export interface MoveOptions {
  readonly fileName: string;
  readonly jobCrs: Crs;
  readonly jobUnit: LengthUnit;
  /** Takes the coordinates as they are, whatever system the file says it is in. */
  readonly keepsCoordinates: boolean;
  /** The system the coordinates are in, in place of what the file says. */
  readonly system: PlaneSystem | undefined;
  readonly heights: HeightChange;
}

/** How a file's points come into the job's system, and what the surveyor is told of it. */
export interface Move {
  readonly plan: { readonly from: string; readonly to: string } | undefined;
  readonly elevationFactor: number;
  readonly shift: number;
  readonly geoid: { readonly path: string; readonly system: string; readonly metresPerUnit: number } | undefined;
  readonly told: CloudFacts['warnings'][number];
}

/** What has to be done to bring a file into the job's system; nothing where they are the same or one of them is not known. */
export function moveInto(
  file: CrsDescription | undefined,
  { jobCrs, jobUnit, keepsCoordinates, system, heights, fileName }: MoveOptions,
): Move | undefined {
  const to = planeSystemOf(jobCrs);
  const from = system ?? (file && planeSystemOf(statedCrs(file)));
  const isElsewhere = !keepsCoordinates && from !== undefined && to !== undefined && from.proj4 !== to.proj4;
  // Without a system nothing is known of the file's unit, and what is not known is not turned.
  const upUnit = heights.unit ?? (keepsCoordinates || !from || !to ? jobUnit : (file?.verticalUnit ?? from.unit));
  if (!isElsewhere && upUnit === jobUnit && heights.shift === 0 && !heights.geoid) return undefined;
  const place = keepsCoordinates ? to : (from ?? to);
  if (heights.geoid && !place)
    throw new PamperoError('geoid-wrong', {
      what: 'A geoid grid needs a coordinate system, and neither the file nor the job states one.',
      where: fileName,
      fix: 'Choose the file’s coordinate system, or leave the geoid out.',
    });
  const said = ({ title, unit }: PlaneSystem): string => `${title}, ${lengthUnits[unit].name}`;
  const unitName = lengthUnits[jobUnit];
  const parts = [
    isElsewhere && `Moved from ${said(from)}, to the job’s ${said(to)}.`,
    upUnit !== jobUnit && `Elevations turned from ${lengthUnits[upUnit].name} into ${unitName.name}.`,
    heights.geoid && `Heights above the ellipsoid became heights above the geoid ${heights.geoid.name}.`,
    heights.shift !== 0 && `${heights.shift} ${unitName.short} was added to every elevation.`,
    isElsewhere && !heights.geoid && 'The height datum was left as it is.',
  ];
  return {
    plan: isElsewhere ? { from: from.proj4, to: to.proj4 } : undefined,
    elevationFactor: metresPer(upUnit) / metresPer(jobUnit),
    shift: heights.shift,
    geoid: heights.geoid && { path: heights.geoid.path, system: place!.proj4, metresPerUnit: metresPer(jobUnit) },
    told: { code: 'moved', message: parts.filter(Boolean).join(' ') },
  };
}

/** Writes a LAS file's points in the job's system, as a LAS file of their own, and opens it. */
export async function reproject(
  pool: TaskPool,
  { path, fileName, target }: { readonly path: string; readonly fileName: string; readonly target: string },
  { told: _, ...move }: Move,
  signal: AbortSignal,
  onMessage: () => void = () => undefined,
): Promise<{ las: LasFacts; size: number }> {
  await pool.read('reprojectLas', { path, fileName, target, ...move }, { path, fileName, signal, onMessage });
  return openPath(pool, target, fileName, signal);
}

export async function openPath(
  pool: TaskPool,
  path: string,
  fileName: string,
  signal: AbortSignal,
): Promise<{ las: LasFacts; size: number }> {
  const { size, ...las } = await pool.read('factsOfLas', { path, fileName }, { path, fileName, signal });
  return { las, size };
}
