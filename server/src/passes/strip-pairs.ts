import type { StripAgreement } from '@pampero/contract';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { columnFrom } from '@pampero/core/columns';
import type { LengthUnit } from '@pampero/core/geodesy';
import { metresPer } from '@pampero/core/geodesy';
import {
  differencesOf,
  histogram,
  joinPairs,
  summariseByPair,
  type PatchLimits,
  type PatchPairs,
} from '@pampero/core/strips';
import { listControl } from '../store/control-repository.js';
import type { FlightCorrection } from '../tasks/strip-points.js';
import type { StripPlane } from '../tasks/strip-tasks.js';
import { groupNodes } from './node-groups.js';
import { overGroups, overTiles, type CloudPass } from './cloud-pass.js';
import { frameOf, type PatchPlan } from './strip-patches.js';
import { stripCloudOf, type StripSite } from './strip-site.js';

/** Every two corresponding smooth patches of a cloud, where the correction has them. */
export async function allPairs(
  pass: CloudPass,
  site: StripSite,
  plan: PatchPlan,
  flight: FlightCorrection,
  limits: PatchLimits,
  onShare: (share: number) => void,
): Promise<{ readonly pairs: PatchPairs; readonly within: number }> {
  const parts = await overTiles(pass, plan.tiles, { attributes: true, onShare }, (nodes, tile, transfer) =>
    pass.pool.run(
      'patchPairs',
      {
        ...stripCloudOf(site, nodes),
        ...flight,
        singleOnly: plan.singleOnly,
        frame: frameOf(tile, plan.cell),
        margin: plan.margin,
        limits,
      },
      pass.signal,
      transfer,
    ),
  );
  const rough = parts.map(({ roughness }) => roughness);
  const all = new Float64Array(rough.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of rough) {
    all.set(part, at);
    at += part.length;
  }
  all.sort();
  return { pairs: joinPairs(parts.map(({ pairs }) => pairs)), within: all[all.length >> 1] ?? 0 };
}

const round = (value: number): number => Number(value.toPrecision(6));

/** What is told of how strips lie to each other. @param halfWidth - of the histogram */
export function agreementOf(pairs: PatchPairs, names: readonly string[], halfWidth: number): StripAgreement {
  const { all, pairs: each } = summariseByPair(pairs);
  const rounded = <T extends object>(summary: T): T =>
    Object.fromEntries(Object.entries(summary).map(([key, v]) => [key, typeof v === 'number' ? round(v) : v])) as T;
  return {
    all: rounded(all),
    pairs: each.map(({ one, two, ...summary }) => ({ one: names[one]!, two: names[two]!, ...rounded(summary) })),
    histogram: { halfWidth, bins: histogram(differencesOf(pairs), halfWidth) },
  };
}

/** A width that one would choose to show differences of this size: 1, 1.5, 2, 3 or 5 times a power of ten. */
export function shownWidth(pairs: PatchPairs): number {
  const { all } = summariseByPair(pairs);
  const wide = Math.max(1e-3, 1.3 * all.percentile95);
  const power = 10 ** Math.floor(Math.log10(wide));
  return ([1, 1.5, 2, 3, 5, 10].find((step) => step * power >= wide) ?? 10) * power;
}

export interface MapFrame {
  readonly east: number;
  readonly north: number;
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
}

const MOST_MAP_CELLS = 500;

/** Cells of a map that all pairs lie in, on whole multiples of their side. */
export function mapFrameOf({ bounds: { min, max } }: StripSite['facts'], patch: number): MapFrame {
  const wide = Math.max(max[0] - min[0], max[1] - min[1]);
  const cell = patch * Math.max(1, Math.ceil(wide / patch / MOST_MAP_CELLS));
  const [column, row] = [Math.floor(min[0] / cell), Math.floor(min[1] / cell)];
  return {
    east: column * cell,
    north: row * cell,
    cell,
    columns: Math.floor(max[0] / cell) - column + 1,
    rows: Math.floor(max[1] / cell) - row + 1,
  };
}

/** Where each pair of patches lies in a map, and its difference; beside the map it is of none. */
function cellsOfPairs(pairs: PatchPairs, { east, north, cell, columns, rows }: MapFrame) {
  const differences = differencesOf(pairs);
  const cells = new Int32Array(pairs.count);
  for (let k = 0; k < pairs.count; k++) {
    const column = Math.floor((pairs.x[k]! - east) / cell);
    const row = Math.floor((pairs.y[k]! - north) / cell);
    cells[k] = column < 0 || row < 0 || column >= columns || row >= rows ? -1 : row * columns + column;
  }
  return { cells, differences };
}

/** Keeps the difference furthest from nothing of a cell. */
function keepFurthest(map: Float32Array, at: number, difference: number): void {
  if (at >= 0 && !(Math.abs(map[at]!) >= Math.abs(difference))) map[at] = difference;
}

/** The difference furthest from nothing in each cell, with its sign; NaN where no two strips meet. Rows from the south. */
export function differenceMap(pairs: PatchPairs, frame: MapFrame): Float32Array {
  const map = new Float32Array(frame.columns * frame.rows).fill(NaN);
  const { cells, differences } = cellsOfPairs(pairs, frame);
  for (let k = 0; k < pairs.count; k++) keepFurthest(map, cells[k]!, differences[k]!);
  return map;
}

/** What maps of each two strips are made of: a cell, a difference, and which pair of the list. */
export function packPairs(pairs: PatchPairs, frame: MapFrame): Uint8Array {
  const { cells, differences } = cellsOfPairs(pairs, frame);
  const order = summariseByPair(pairs).pairs.map(({ one, two }) => one * 65_536 + two);
  const placeOf = new Map(order.map((key, place) => [key, place]));
  const place = columnFrom(Uint16Array, cells, (_, k) => placeOf.get(pairs.one[k]! * 65_536 + pairs.two[k]!)!);
  return packArrays({ cells, differences: Float32Array.from(differences), place }, { ...frame });
}

/** The map of one pair of strips alone, packed as a grid. */
export function mapOfPair(packed: Uint8Array, pair: number): Uint8Array {
  const { arrays, facts } = unpackArrays(packed);
  const { cells, differences, place } = arrays as unknown as {
    readonly cells: Int32Array;
    readonly differences: Float32Array;
    readonly place: Uint16Array;
  };
  const { columns, rows } = facts as MapFrame;
  const map = new Float32Array(columns * rows).fill(NaN);
  for (let k = 0; k < cells.length; k++) if (place[k] === pair) keepFurthest(map, cells[k]!, differences[k]!);
  return packArrays({ elevation: map }, facts);
}

export const packMaps = (maps: Readonly<Record<string, Float32Array>>, frame: MapFrame): Uint8Array =>
  packArrays(maps, { ...frame });

/** About a surveyed point: as wide as the look against control in Intake. */
const CONTROL_RADIUS_METRES = 1;

export interface ControlPlane extends StripPlane {
  readonly number: string;
  readonly role: 'control' | 'check';
  readonly east: number;
  readonly north: number;
  readonly surveyed: number;
}

/** Rougher ground than that of the patches, and the rover stood in grass that the beam did not see through. */
const CONTROL_ROUGHER = 1.5;

/** The plane of each strip about each surveyed point that lies on smooth ground. */
export async function planesAtControl(
  pass: CloudPass,
  site: StripSite,
  unit: LengthUnit,
  plan: Pick<PatchPlan, 'cell' | 'roughness'>,
  flight: FlightCorrection,
): Promise<ControlPlane[]> {
  const points = await listControl(pass.job.read);
  if (points.length === 0) return [];
  const radius = Math.max(CONTROL_RADIUS_METRES / metresPer(unit), plan.cell / 2);
  const { scale, offset } = site.quantisation;
  const reach = radius + 3 / metresPer(unit);
  const near = site.nodes.filter((node) =>
    points.some(
      ({ easting, northing }) =>
        node.minX * scale[0] + offset[0] <= easting + reach &&
        node.maxX * scale[0] + offset[0] >= easting - reach &&
        node.minY * scale[1] + offset[1] <= northing + reach &&
        node.maxY * scale[1] + offset[1] >= northing - reach,
    ),
  );
  const places = points.map(({ easting, northing }) => [easting, northing] as const);
  const parts = await overGroups(pass, groupNodes(near), { attributes: true }, (nodes, _group, transfer) =>
    pass.pool.run(
      'stripPointsNear',
      { ...stripCloudOf(site, nodes), ...flight, singleOnly: true, places, radius },
      pass.signal,
      transfer,
    ),
  );
  const planes = await pass.pool.run('planesAtPlaces', { parts, places, radius }, pass.signal);
  return planes
    .filter(({ roughness }) => roughness <= CONTROL_ROUGHER * plan.roughness)
    .map((plane) => {
      const point = points[plane.place]!;
      const { number, role, easting: east, northing: north, elevation: surveyed } = point;
      return { ...plane, number, role, east, north, surveyed };
    });
}
