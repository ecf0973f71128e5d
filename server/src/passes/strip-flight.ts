import type { ProductOf } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import {
  ACCURACY_COLUMNS,
  clockOf,
  clockShift,
  noCorrection,
  TRAJECTORY_COLUMNS,
  type Correction,
  type Trajectory,
} from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { listProducts, readProduct, readProductBlob } from '../store/product-repository.js';
import { shared } from '../shared-memory.js';
import type { FlightCorrection } from '../tasks/strip-points.js';
import type { CloudPass } from './cloud-pass.js';
import type { StripSite } from './strip-site.js';

export interface Flight {
  readonly trajectory: { readonly key: string; readonly columns: Trajectory };
  readonly facts: ProductOf<'trajectory'>['facts'];
  /** Seconds to add to the cloud's times to have the trajectory's. */
  readonly timeShift: number;
}

/** A trajectory of the job, in memory that threads share. */
export async function readTrajectory(
  { job }: Pick<CloudPass, 'job'>,
  id: number,
): Promise<{
  readonly trajectory: Flight['trajectory'];
  readonly facts: Flight['facts'];
  readonly name: string;
}> {
  const product = await readProduct(job.read, id, 'trajectory');
  const { arrays } = unpackArrays(await readProductBlob(job.read, id, 'records'));
  const columns = Object.fromEntries(
    [...TRAJECTORY_COLUMNS, ...ACCURACY_COLUMNS].flatMap((name) => {
      const values = arrays[name] as Float64Array | undefined;
      return values ? [[name, shared(values)]] : [];
    }),
  ) as unknown as Trajectory;
  return { trajectory: { key: `${job.path} ${id}`, columns }, facts: product.facts, name: product.name };
}

/**
 * The trajectory of a cloud's flight.
 * @throws PamperoError where the cloud has no times, the clocks cannot be brought together, or the times do not meet
 */
export async function flightOf(
  pass: Pick<CloudPass, 'job'>,
  site: Pick<StripSite, 'facts'>,
  trajectoryId: number,
  span: { readonly from: number; readonly to: number },
): Promise<Flight> {
  // Its records are read once it is known to be of this flight.
  const { facts, name } = await readProduct(pass.job.read, trajectoryId, 'trajectory');
  if (!site.facts.columns.gpsTime)
    throw new PamperoError('no-times', {
      what: `The points of ${site.facts.name} carry no times, so nobody knows where on the trajectory they were measured.`,
      fix: 'Export the cloud with GPS times (point formats 1 or 6 and up), or compare and shift strips without a trajectory.',
    });
  const clock = site.facts.isStandardGpsTime ? 'adjusted' : clockOf(span.from);
  const timeShift = clockShift(clock, facts.clock, facts.week);
  if (timeShift === undefined)
    throw new PamperoError('week-unknown', {
      what: `The times of ${name} are seconds of a week, and those of ${site.facts.name} are not; the week is not known.`,
      fix: 'Import the trajectory again and give its GPS week.',
    });
  const [from, to] = [span.from + timeShift, span.to + timeShift];
  if (to < facts.start || from > facts.end)
    throw new PamperoError('trajectory-elsewhen', {
      what: `${name} runs from ${facts.start.toFixed(1)} to ${facts.end.toFixed(1)} s, the cloud from ${from.toFixed(1)} to ${to.toFixed(1)} s of the same clock: they do not meet.`,
      fix: 'Choose the trajectory of this flight. If it is, one of the two has its times on another clock: leap seconds or the week.',
    });
  const { trajectory } = await readTrajectory(pass, trajectoryId);
  return { trajectory, facts, timeShift };
}

/** What an adjustment corrects its cloud by, with the trajectory it was reckoned with. */
export async function correctedFlight(
  pass: Pick<CloudPass, 'job'>,
  { trajectoryId, correction, timeShift }: ProductOf<'adjustment'>['facts'],
): Promise<FlightCorrection> {
  const trajectory = trajectoryId === undefined ? undefined : (await readTrajectory(pass, trajectoryId)).trajectory;
  return { correction: correction as unknown as Correction, ...(trajectory && { trajectory }), timeShift };
}

/** Nothing corrected, and no trajectory asked for. */
export function uncorrected(strips: number): FlightCorrection {
  return { correction: noCorrection(Array.from({ length: strips }, () => ({ from: 0, to: 0 }))), timeShift: 0 };
}

/** The trajectory that was chosen, or the newest of the job that covers the cloud in time. */
export async function findFlight(
  pass: CloudPass,
  site: StripSite,
  chosen: number | undefined,
  span: { readonly from: number; readonly to: number },
): Promise<{ trajectoryId?: number; flight?: Flight }> {
  if (chosen !== undefined) return { trajectoryId: chosen, flight: await flightOf(pass, site, chosen, span) };
  const all = (await listProducts(pass.job.read)).filter(({ kind }) => kind === 'trajectory');
  for (const { id } of all.sort((a, b) => b.id - a.id)) {
    const flight = await flightOf(pass, site, id, span).catch((error: unknown) => {
      // One of another day is passed over; anything else that is wrong is told.
      if (error instanceof PamperoError) return undefined;
      throw error;
    });
    if (flight) return { trajectoryId: id, flight };
  }
  return {};
}
