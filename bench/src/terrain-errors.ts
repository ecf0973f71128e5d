import { findSuspectAreas, suspectLimits } from '@pampero/core/ground';
import { Outline, type Place } from '@pampero/core/selection';
import { GROUND, type PointBatch } from '@pampero/core/cloud';
import { sampleTin, triangulate } from '@pampero/core/terrain';
import { thinEvenLand } from '@pampero/core/thinning';
import { QUANTISATION, type SurveyedScene } from '@pampero/demo';

/** Cells in which the terrain is held against the truth, metres; and those of the points it is made of. */
const [CELL, THIN_CELL] = [0.5, 1];
/** Errors nearer to each other than this are one place, metres. */
const PLACE = 8;
const WORST = 10;

export interface TerrainErrors {
  /** Root mean square, metres: everywhere, where nothing stands and where plants do. */
  readonly all: number;
  readonly open: number;
  readonly plants: number;
  readonly bias: number;
  readonly p95: number;
  /** 99.9 % of the cells are off by less. */
  readonly p999: number;
  /** Of each cell, row by row from the south-west; NaN where nothing is known or there is water. */
  readonly off: Float64Array;
  readonly columns: number;
}

/** A grid of the TIN over the ground points of some classes, thinned as a surface is by default, against the true terrain. */
export function terrainErrors({ scene, cloud }: SurveyedScene, classes: Uint8Array): TerrainErrors {
  const ground = Uint32Array.from(cloud.x.keys()).filter((i) => classes[i] === GROUND);
  const at = (values: Int32Array, axis: 0 | 1 | 2): Float64Array =>
    Float64Array.from(ground, (i) => values[i]! * QUANTISATION.scale[axis] + QUANTISATION.offset[axis]);
  const [x, y, z] = [at(cloud.x, 0), at(cloud.y, 1), at(cloud.z, 2)];
  const kept = thinEvenLand(x, y, z, THIN_CELL);
  const of = (values: Float64Array): Float64Array => Float64Array.from(kept, (i) => values[i]!);
  const { tin } = triangulate(of(x), of(y), of(z));
  const frame = {
    east: QUANTISATION.offset[0],
    north: QUANTISATION.offset[1],
    cell: CELL,
    columns: Math.floor(scene.extent.east / CELL),
    rows: Math.floor(scene.extent.north / CELL),
  };
  const grid = sampleTin(tin, frame);
  const cover = coverOf(cloud, frame);
  const list: { all: number[]; open: number[]; plants: number[] } = { all: [], open: [], plants: [] };
  const offs = new Float64Array(frame.columns * frame.rows).fill(NaN);
  for (let row = 0; row < frame.rows; row++)
    for (let column = 0; column < frame.columns; column++) {
      const i = row * frame.columns + column;
      const [east, north] = [(column + 0.5) * CELL, (row + 0.5) * CELL];
      const truth = scene.ground(east, north);
      if (Number.isNaN(grid[i]!) || scene.water(east, north) > truth) continue;
      const off = grid[i]! - truth;
      list.all.push(off);
      offs[i] = off;
      const slope = Math.abs(scene.ground(east + 0.3, north) - scene.ground(east - 0.3, north)) / 0.6;
      const across = Math.abs(scene.ground(east, north + 0.3) - scene.ground(east, north - 0.3)) / 0.6;
      // On a step half a metre decides over metres of height; open ground is walked on.
      if (cover[i] === 0 && Math.max(slope, across) < 1) list.open.push(off);
      if (cover[i] === 2) list.plants.push(off);
    }
  const rms = (values: readonly number[]): number =>
    values.length === 0 ? NaN : Math.sqrt(values.reduce((sum, e) => sum + e * e, 0) / values.length);
  const sizes = list.all.map(Math.abs).sort((a, b) => a - b);
  return {
    all: rms(list.all),
    open: rms(list.open),
    plants: rms(list.plants),
    bias: list.all.reduce((sum, e) => sum + e, 0) / list.all.length,
    p95: sizes[Math.floor(0.95 * sizes.length)]!,
    p999: sizes[Math.floor(0.999 * sizes.length)]!,
    off: offs,
    columns: frame.columns,
  };
}

/** Of each cell 0 where nothing but ground is in it and about it, 2 where plants are, 1 where only other things are. */
function coverOf(cloud: PointBatch, { columns, rows }: { columns: number; rows: number }): Uint8Array {
  const cover = new Uint8Array(columns * rows);
  for (let i = 0; i < cloud.count; i++) {
    const code = cloud.classification[i]!;
    if (code === GROUND) continue;
    const is = code >= 3 && code <= 5 ? 2 : 1;
    const [column, row] = [Math.floor(cloud.x[i]! / 1000 / CELL), Math.floor(cloud.y[i]! / 1000 / CELL)];
    for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
      for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++)
        cover[r * columns + c] = Math.max(cover[r * columns + c]!, is);
  }
  return cover;
}

/** The worst places that better ground points would have spared: by how much they are worse than the true points' terrain. */
export function worstPlaces(
  { off, columns }: TerrainErrors,
  floor: TerrainErrors,
): { east: number; north: number; off: number }[] {
  const places = [...off.keys()].flatMap((i) => {
    const more = Math.abs(off[i]!) - Math.abs(floor.off[i]!);
    if (!(more > 0)) return [];
    return [{ east: ((i % columns) + 0.5) * CELL, north: (Math.floor(i / columns) + 0.5) * CELL, off: off[i]!, more }];
  });
  places.sort((a, b) => b.more - a.more);
  const worst: typeof places = [];
  for (const place of places) {
    if (worst.length === WORST) break;
    if (worst.every((other) => Math.hypot(other.east - place.east, other.north - place.north) > PLACE))
      worst.push(place);
  }
  return worst;
}

/** How many of the worst errors lie in a place that is listed as doubtful. */
export function worstErrorsListed(
  { scene, cloud }: SurveyedScene,
  classes: Uint8Array,
  worst: readonly { readonly east: number; readonly north: number }[],
): { held: number; listed: number } {
  const frame = {
    east: 0,
    north: 0,
    cell: 1,
    columns: Math.ceil(scene.extent.east),
    rows: Math.ceil(scene.extent.north),
  };
  const cells = frame.columns * frame.rows;
  const [ground, settled, all] = [new Uint32Array(cells), new Uint32Array(cells), new Uint32Array(cells)];
  const sum = new Float64Array(cells);
  for (let i = 0; i < cloud.count; i++) {
    const column = Math.min(frame.columns - 1, Math.floor(cloud.x[i]! / 1000));
    const row = Math.min(frame.rows - 1, Math.floor(cloud.y[i]! / 1000));
    const k = row * frame.columns + column;
    const code = classes[i] === GROUND ? GROUND : cloud.classification[i]!;
    if (code === 7 || code === 18) continue;
    all[k]!++;
    if (code === GROUND) {
      ground[k]!++;
      sum[k]! += cloud.z[i]! / 1000;
    } else if (code === 6 || code === 9) settled[k]!++;
  }
  const elevation = sum.map((total, k) => (ground[k] === 0 ? NaN : total / ground[k]!));
  const areas = findSuspectAreas({ ...frame, ground, elevation, settled, all }, suspectLimits);
  const outlines = areas.map(({ outline }) => new Outline(outline));
  const isHeld = (east: number, north: number): boolean =>
    outlines.some((outline) => outline.contains(east, north) || isAlong(outline.corners, east, north));
  return { held: worst.filter(({ east, north }) => isHeld(east, north)).length, listed: areas.length };
}

/** No further than a metre from an outline, whose edges run along the axes. */
function isAlong(outline: readonly Place[], east: number, north: number): boolean {
  return outline.some(([e, n], k) => {
    const [pe, pn] = outline.at(k - 1)!;
    const nearest = (value: number, a: number, b: number): number =>
      Math.max(Math.min(a, b), Math.min(Math.max(a, b), value));
    return Math.hypot(east - nearest(east, e, pe), north - nearest(north, n, pn)) <= 1;
  });
}
