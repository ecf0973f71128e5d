import { columnFrom } from '@pampero/core/columns';
import type { ProductOf } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import type { Quantisation } from '@pampero/core/cloud';
import { lengthUnits, metresPer, type LengthUnit } from '@pampero/core/geodesy';
import {
  ACCURACY_COLUMNS,
  clockOf,
  clockShift,
  noCorrection,
  smoothRoughness,
  TRAJECTORY_COLUMNS,
  type Correction,
  type PatchFrame,
  type StripRule,
  type Trajectory,
} from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes, type StoredNode } from '../store/node-repository.js';
import { readProduct, readProductBlob } from '../store/product-repository.js';
import { shared } from '../shared-memory.js';
import type { NodeColumns } from '../tasks/node-columns.js';
import type { FlightCorrection, StripCloud } from '../tasks/strip-points.js';
import { overGroups, overTiles, type CloudPass, type TileBounds } from './cloud-pass.js';
import { averageSpacing } from './cloud-spacing.js';
import { groupNodes } from './node-groups.js';
import { boxOf } from './select-points.js';
import { spatialTiles, type SpatialTile } from './spatial-tiles.js';

/** A cloud taken apart by strip. */
export interface StripSite {
  readonly cloudId: number;
  readonly facts: CloudFacts & { readonly name: string; readonly pointCount: number };
  readonly quantisation: Quantisation;
  readonly nodes: readonly StoredNode[];
  readonly rule: StripRule;
  /** What each strip is called, in the order of the rule. */
  readonly names: readonly string[];
}

/** @throws PamperoError where the cloud has less than two strips */
export async function stripSite(
  { job }: CloudPass,
  cloudId: number,
  stripsId: number | undefined,
  { least = 2 }: { readonly least?: number } = {},
): Promise<StripSite> {
  const facts = await readCloudFacts(job.read, cloudId);
  const list = stripsId === undefined ? undefined : await readProduct(job.read, stripsId, 'strips');
  if (list && list.facts.cloudId !== cloudId)
    throw new PamperoError('strips-of-another-cloud', {
      what: `${list.name} are the strips of another cloud.`,
      fix: 'Find the strips of this cloud first, or choose them by point source ID.',
    });
  const { rule, names } = list ? ruleOf(list.facts) : bySource(facts.source.strips);
  if (names.length < least)
    throw new PamperoError('one-strip', {
      what:
        names.length === 1
          ? `${facts.name} has one strip only; there is nothing to compare it with.`
          : `${facts.name} has no strips: all points have point source ID 0.`,
      fix: 'Find strips by gaps in time or by straight runs of the trajectory first.',
    });
  return {
    cloudId,
    facts,
    quantisation: quantisationOf(facts),
    nodes: await listStoredNodes(job.read, cloudId),
    rule,
    names,
  };
}

function bySource(ids: readonly number[]): { rule: StripRule; names: string[] } {
  const used = ids.filter((id) => id !== 0 || ids.length > 1);
  return { rule: { by: 'source', ids: used, strip: used.map((_, k) => k) }, names: used.map(String) };
}

/** Strips of one name count as one. */
export function ruleOf({ by, strips }: ProductOf<'strips'>['facts']): { rule: StripRule; names: string[] } {
  const used = strips.filter(({ isLeftOut }) => !isLeftOut);
  const names = [...new Set(used.map(({ name }) => name))];
  if (by === 'source') {
    const strip = used.map(({ name }) => names.indexOf(name));
    return { rule: { by: 'source', ids: used.map(({ sourceId }) => sourceId!), strip }, names };
  }
  const timed = used.filter(({ from, to }) => from !== undefined && to !== undefined).sort((a, b) => a.from! - b.from!);
  return {
    rule: {
      by: 'time',
      from: columnFrom(Float64Array, timed, ({ from }) => from!),
      to: columnFrom(Float64Array, timed, ({ to }) => to!),
      strip: columnFrom(Uint16Array, timed, ({ name }) => names.indexOf(name)),
    },
    names,
  };
}

/** What a task is told of some nodes of the site. */
export function stripCloudOf(site: StripSite, nodes: readonly NodeColumns[]): StripCloud {
  const { columns, attributeNames } = site.facts;
  return { nodes, quantisation: site.quantisation, columns, attributeNames, rule: site.rule };
}

export interface StripTimes {
  readonly from: number;
  readonly to: number;
  readonly points: number;
}

/** First and last time of each strip's points; the whole of the cloud is read. */
export async function timesOfCloud(
  pass: CloudPass,
  site: Omit<StripSite, 'rule' | 'names'>,
  onShare?: (share: number) => void,
) {
  const parts = await overGroups(
    pass,
    groupNodes(site.nodes),
    { attributes: true, ...(onShare && { onShare }) },
    (nodes, _group, transfer) =>
      pass.pool.run(
        'timesOfNodes',
        {
          nodes,
          quantisation: site.quantisation,
          columns: site.facts.columns,
          attributeNames: site.facts.attributeNames,
        },
        pass.signal,
        transfer,
      ),
  );
  const bySource = new Map<number, StripTimes>();
  const seconds = new Map<number, StripTimes>();
  const add = (to: Map<number, StripTimes>, key: number, { from, to: end, points }: StripTimes): void => {
    const had = to.get(key);
    to.set(
      key,
      had
        ? { from: Math.min(had.from, from), to: Math.max(had.to, end), points: had.points + points }
        : { from, to: end, points },
    );
  };
  for (const part of parts) {
    for (const source of part.bySource) add(bySource, source.id, source);
    for (const second of part.seconds) add(seconds, second.second, second);
  }
  return { bySource, seconds };
}

/** The span of each strip of a site, in the cloud's own time. */
export function spansOf(
  { rule, names }: Pick<StripSite, 'rule' | 'names'>,
  bySource: ReadonlyMap<number, StripTimes>,
): { from: number; to: number }[] {
  if (rule.by === 'source')
    return names.map((_, strip) => {
      const own = rule.ids.flatMap((id, k) => (rule.strip[k] === strip ? (bySource.get(id) ?? []) : []));
      return own.length === 0
        ? { from: 0, to: 0 }
        : { from: Math.min(...own.map(({ from }) => from)), to: Math.max(...own.map(({ to }) => to)) };
    });
  return names.map((_, strip) => {
    const own = [...rule.strip.keys()].filter((k) => rule.strip[k] === strip);
    return { from: Math.min(...own.map((k) => rule.from[k]!)), to: Math.max(...own.map((k) => rule.to[k]!)) };
  });
}

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

const TILE_POINTS = 1_200_000;
/** Smooth patches: so many spacings of one strip's points across. */
const PATCH_SPACINGS = 6;
/** Of the smooth ground's own roughness. */
const ROUGHER = 1.5;
const TILES_SAMPLED = 8;

/** Patches of a site: their size and how rough they may be, and the tiles they lie in. */
export interface PatchPlan {
  readonly cell: number;
  readonly roughness: number;
  readonly singleOnly: boolean;
  readonly margin: number;
  readonly tiles: readonly SpatialTile[];
}

/** @param given - lengths of 0 follow from the cloud */
export async function planPatches(
  pass: CloudPass,
  site: StripSite,
  unit: LengthUnit,
  given: { readonly patch: number; readonly roughness: number; readonly singleOnly: boolean },
): Promise<PatchPlan> {
  const metre = metresPer(unit);
  const spacing = averageSpacing(site.facts) * Math.SQRT2;
  const cell =
    given.patch || Math.max(0.5 / metre, Math.min(20 / metre, Number((PATCH_SPACINGS * spacing).toPrecision(2))));
  const margin = cell + 3 / metre;
  const tiles = spatialTiles(site.nodes, (node) => boxOf(node, site.facts), margin, TILE_POINTS);
  const plan = { cell, singleOnly: given.singleOnly, margin, tiles };
  if (given.roughness) return { ...plan, roughness: given.roughness };
  const stride = Math.max(1, Math.ceil(tiles.length / TILES_SAMPLED));
  const sampled = await overTiles(
    pass,
    tiles.filter((_, k) => k % stride === 0),
    { attributes: true },
    (nodes, tile, transfer) =>
      pass.pool.run(
        'patchRoughness',
        {
          ...stripCloudOf(site, nodes),
          ...uncorrected(site.names.length),
          singleOnly: given.singleOnly,
          frame: frameOf(tile, cell),
          margin,
        },
        pass.signal,
        transfer,
      ),
  );
  const all = new Float64Array(sampled.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of sampled) {
    all.set(part, at);
    at += part.length;
  }
  const smooth = smoothRoughness(all);
  if (Number.isNaN(smooth))
    throw new PamperoError('no-patches', {
      what: `No place of ${cell} ${lengthUnits[unit].short} holds enough points of one strip to make a patch.`,
      fix: 'Give a larger patch, or turn off “Single returns only”.',
    });
  return { ...plan, roughness: Math.max(ROUGHER * smooth, 1e-4 / metre) };
}

/** The cells of a size whose middles lie in a tile, on whole multiples of their side. */
export function frameOf({ west, south, east, north }: TileBounds, cell: number): PatchFrame {
  const [column, row] = [Math.ceil(west / cell - 0.5), Math.ceil(south / cell - 0.5)];
  return {
    west: column * cell,
    south: row * cell,
    cell,
    columns: Math.max(0, Math.ceil(east / cell - 0.5) - column),
    rows: Math.max(0, Math.ceil(north / cell - 0.5) - row),
  };
}

export type { Correction };
