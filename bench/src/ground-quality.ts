import { agreementCounts, agreementOf, type Agreement } from '@pampero/core/accuracy';
import { GROUND } from '@pampero/core/cloud';
import {
  addGreenness,
  doubtOfGreen,
  findGround,
  greennessLimit,
  newGreennessHistogram,
  tooDoubtful,
  groundNoise,
  proposeGround,
  steepSlope,
  type GroundProposal,
  type GroundSettings,
  type PointColumns3,
} from '@pampero/core/ground';
import { addGround, classifyObjects, groundModel, newGroundSums, waterAt, waterLevels } from '@pampero/core/objects';
import { sampleTin, triangulate } from '@pampero/core/terrain';
import { onePointPerCell } from '@pampero/core/thinning';
import { QUANTISATION, surveyScene, type SurveyedScene } from '@pampero/demo';
import type { Row } from './rows.js';

/** Methods by name: what is put over the proposed settings. */
const METHODS: Readonly<Record<string, (settings: GroundSettings) => GroundSettings>> = {
  proposed: (settings) => settings,
  'cloth alone': (settings) => ({ ...settings, method: 'cloth', refine: false, tolerance: 0.12 }),
  'TIN alone': (settings) => ({ ...settings, method: 'tin', refine: false, tolerance: 0.12 }),
  'cloth, second look': (settings) => ({ ...settings, method: 'cloth' }),
};

const CLASSES = [
  [3, 'low vegetation'],
  [4, 'medium vegetation'],
  [5, 'high vegetation'],
  [6, 'building'],
  [9, 'water'],
  [14, 'wire'],
  [15, 'pole'],
  [64, 'fence'],
  [65, 'vehicle'],
] as const;

/** How well ground and what stands on it are found in each scene, and how near the terrain comes to the true one. */
export async function* qualityOf(names: readonly string[], seeds: readonly number[]): AsyncGenerator<Row> {
  const kappas: number[] = [];
  const totals: number[] = [];
  for (const name of names) {
    const runs = seeds.map((seed) => surveyScene(name, seed));
    const proposals = runs.map(proposalFor);
    for (const [method, change] of Object.entries(METHODS)) {
      const found = runs.map((run, k) => groundOf(run, change(proposals[k]!.settings)));
      const agreements = found.map((classes, k) =>
        agreementOf(agreementCounts(runs[k]!.cloud.classification, classes, GROUND)),
      );
      const mean = (of: keyof Agreement): number => agreements.reduce((sum, a) => sum + a[of], 0) / agreements.length;
      const isProposed = method === 'proposed';
      if (isProposed) {
        kappas.push(mean('kappa'));
        totals.push(mean('total'));
      }
      yield {
        name: `${name}, ${method}: kappa`,
        measured: mean('kappa'),
        unit: '',
        isMoreBetter: true,
        ...(isProposed && { target: 0.9 }),
      };
      yield { name: `${name}, ${method}: type I`, measured: 100 * mean('typeOne'), unit: '%' };
      yield { name: `${name}, ${method}: type II`, measured: 100 * mean('typeTwo'), unit: '%' };
      yield { name: `${name}, ${method}: total`, measured: 100 * mean('total'), unit: '%' };
      if (!isProposed) continue;
      const errors = runs.map((run, k) => terrainErrors(run, found[k]!));
      const average = (of: keyof (typeof errors)[number]): number =>
        errors.reduce((sum, e) => sum + e[of], 0) / errors.length;
      yield { name: `${name}: terrain, bias`, measured: 1000 * average('bias'), unit: 'mm' };
      yield { name: `${name}: terrain, RMSEz`, measured: 1000 * average('rmse'), unit: 'mm' };
      yield { name: `${name}: terrain, 95 % within`, measured: 1000 * average('p95'), unit: 'mm' };
      yield {
        name: `${name}: terrain on open ground, RMSEz`,
        measured: 1000 * average('openRmse'),
        unit: 'mm',
        target: 1500 * runs[0]!.scene.flight.rangeNoise,
      };
      // What points that are ground in truth would give: no filter can do better.
      const best = runs.map((run) => terrainErrors(run, run.cloud.classification).openRmse);
      yield {
        name: `${name}: the same of the true ground points`,
        measured: (1000 * best.reduce((sum, e) => sum + e, 0)) / best.length,
        unit: 'mm',
      };
      yield* objectRows(name, runs, found, proposals);
    }
  }
  const average = (list: readonly number[]): number => list.reduce((sum, v) => sum + v, 0) / list.length;
  yield { name: 'all scenes: kappa', measured: average(kappas), unit: '', target: 0.94, isMoreBetter: true };
  yield { name: 'all scenes: total', measured: 100 * average(totals), unit: '%', target: 3 };
}

function columnsOf({ cloud }: SurveyedScene, keep: (i: number) => boolean = () => true): PointColumns3 {
  const chosen = Uint32Array.from({ length: cloud.count }, (_, i) => i).filter(keep);
  const at = (values: Int32Array, axis: 0 | 1 | 2): Float64Array =>
    Float64Array.from(chosen, (i) => values[i]! * QUANTISATION.scale[axis] + QUANTISATION.offset[axis]);
  return { count: chosen.length, x: at(cloud.x, 0), y: at(cloud.y, 1), z: at(cloud.z, 2) };
}

/** What Pampero proposes for the cloud. */
export function proposalFor(run: SurveyedScene): GroundProposal {
  const { cloud, scene } = run;
  const isLast = (i: number): boolean => (cloud.returns[i]! & 0x0f) >= cloud.returns[i]! >> 4;
  const last = columnsOf(run, isLast);
  const spacing = Math.sqrt((scene.extent.east * scene.extent.north) / last.count);
  let many = 0;
  for (let i = 0; i < cloud.count; i++) if (isLast(i) && cloud.returns[i]! >> 4 > 1) many++;
  return proposeGround(
    {
      spacing,
      steepSlope: steepSlope(
        columnsOf(run, (i) => i % 8 === 0),
        1,
      ),
      manyReturns: many / last.count,
      hasColour: cloud.red !== undefined,
      noise: groundNoise([last], 4 * spacing),
    },
    1,
  );
}

function groundOf({ cloud, scene }: SurveyedScene, settings: GroundSettings): Uint8Array {
  const { cell } = settings;
  const frame = {
    east: QUANTISATION.offset[0],
    north: QUANTISATION.offset[1],
    cell,
    columns: Math.ceil(scene.extent.east / cell) + 1,
    rows: Math.ceil(scene.extent.north / cell) + 1,
  };
  const given = { ...cloud, classification: new Uint8Array(cloud.count).fill(1) };
  return findGround(given, QUANTISATION, frame, settings, new Uint8Array(256).fill(1));
}

/** Half-metre grid of the TIN over one ground point a half metre against the true terrain. */
function terrainErrors(run: SurveyedScene, classes: Uint8Array) {
  const { scene, cloud } = run;
  const cell = 0.5;
  const ground = columnsOf(run, (i) => classes[i] === GROUND);
  const [x, y, z] = [ground.x, ground.y, ground.z] as [Float64Array, Float64Array, Float64Array];
  const kept = onePointPerCell(x, y, z, cell);
  const of = (values: Float64Array): Float64Array => Float64Array.from(kept, (i) => values[i]!);
  const { tin } = triangulate(of(x), of(y), of(z));
  const frame = {
    east: QUANTISATION.offset[0],
    north: QUANTISATION.offset[1],
    cell,
    columns: Math.floor(scene.extent.east / cell),
    rows: Math.floor(scene.extent.north / cell),
  };
  const grid = sampleTin(tin, frame);
  // Open: nothing but ground in the cell and about it.
  const isCovered = new Uint8Array(frame.columns * frame.rows);
  for (let i = 0; i < cloud.count; i++) {
    if (cloud.classification[i] === GROUND) continue;
    const [column, row] = [Math.floor(cloud.x[i]! / 1000 / cell), Math.floor(cloud.y[i]! / 1000 / cell)];
    for (let r = Math.max(0, row - 1); r <= Math.min(frame.rows - 1, row + 1); r++)
      for (let c = Math.max(0, column - 1); c <= Math.min(frame.columns - 1, column + 1); c++)
        isCovered[r * frame.columns + c] = 1;
  }
  const errors: number[] = [];
  const open: number[] = [];
  for (let row = 0; row < frame.rows; row++)
    for (let column = 0; column < frame.columns; column++) {
      const at = row * frame.columns + column;
      const [east, north] = [(column + 0.5) * cell, (row + 0.5) * cell];
      const truth = scene.ground(east, north);
      if (Number.isNaN(grid[at]!) || scene.water(east, north) > truth) continue;
      const slope = Math.abs(scene.ground(east + 0.3, north) - scene.ground(east - 0.3, north)) / 0.6;
      const across = Math.abs(scene.ground(east, north + 0.3) - scene.ground(east, north - 0.3)) / 0.6;
      errors.push(grid[at]! - truth);
      // On a step half a metre decides over metres of height; open ground is walked on.
      if (isCovered[at] === 0 && Math.max(slope, across) < 1) open.push(grid[at]! - truth);
    }
  const rms = (list: readonly number[]): number => Math.sqrt(list.reduce((sum, e) => sum + e * e, 0) / list.length);
  const sizes = errors.map(Math.abs).sort((a, b) => a - b);
  return {
    bias: errors.reduce((sum, e) => sum + e, 0) / errors.length,
    rmse: rms(errors),
    p95: sizes[Math.floor(0.95 * sizes.length)]!,
    openRmse: rms(open),
  };
}

function* objectRows(
  name: string,
  runs: readonly SurveyedScene[],
  found: readonly Uint8Array[],
  proposals: readonly GroundProposal[],
): Generator<Row> {
  const tallies = new Map<number, { both: number; ours: number; theirs: number }>(
    CLASSES.map(([code]) => [code, { both: 0, ours: 0, theirs: 0 }]),
  );
  for (const [k, run] of runs.entries()) {
    const { cloud, scene } = run;
    const { cell } = proposals[k]!.settings;
    const frame = {
      east: QUANTISATION.offset[0],
      north: QUANTISATION.offset[1],
      cell,
      columns: Math.ceil(scene.extent.east / cell) + 1,
      rows: Math.ceil(scene.extent.north / cell) + 1,
    };
    const isGround = new Uint8Array(256);
    isGround[GROUND] = 1;
    const sums = newGroundSums(frame);
    addGround(sums, { ...cloud, classification: found[k]! }, QUANTISATION, isGround);
    const { count, x, y, z } = columnsOf(run) as { count: number } & Record<'x' | 'y' | 'z', Float64Array>;
    const density = count / (scene.extent.east * scene.extent.north);
    const classes = classifyObjects(
      { count, x, y, z },
      groundModel(sums, QUANTISATION)!,
      {
        lowFrom: 0.2,
        mediumFrom: 0.6,
        highFrom: 3,
        highest: 40,
        roofs: {
          leastHeight: 2,
          leastArea: 6.25,
          roughness: 0.08,
          radius: 1,
          spacing: 1 / Math.sqrt(density),
        },
        wires: { leastHeight: 4, radius: 5, leastLength: 20 },
        small: {
          metre: 1,
          spacing: 1 / Math.sqrt(density),
          poles: { leastHeight: 4 },
          fences: { leastLength: 8 },
          hasVehicles: true,
          fenceClass: 64,
          vehicleClass: 65,
        },
      },
      Uint8Array.from(found[k]!, (code) => (code === GROUND ? 0 : 1)),
      found[k]!,
      count,
      greenOf(run),
    );
    const water = newGroundSums({ ...frame, cell: Math.max(1, Math.sqrt(5 / density)) });
    const all = newGroundSums(water);
    addGround(all, cloud, QUANTISATION, new Uint8Array(256).fill(1));
    addGround(water, { ...cloud, classification: found[k]! }, QUANTISATION, isGround);
    const [, , scale] = QUANTISATION.scale;
    const tolerance = 0.1;
    const levels = waterLevels(
      all,
      water,
      { scale, offset: QUANTISATION.offset[2] },
      { metre: 1, leastArea: 25, tolerance },
    );
    for (let i = 0; i < count; i++)
      if (classes[i]! <= 3) {
        const over = z[i]! - waterAt(levels, x[i]!, y[i]!);
        if (over <= tolerance / 2 && over >= -tolerance) classes[i] = 9;
      }
    for (let i = 0; i < count; i++) {
      const [ours, theirs] = [tallies.get(classes[i]!), tallies.get(cloud.classification[i]!)];
      if (ours) ours.ours++;
      if (theirs) theirs.theirs++;
      if (ours && ours === theirs) ours.both++;
    }
  }
  for (const [code, label] of CLASSES) {
    const { both, ours, theirs } = tallies.get(code)!;
    if (theirs === 0) continue;
    const target = code === 5 || code === 6 ? { target: 0.9 } : {};
    yield {
      name: `${name}: ${label}, precision`,
      measured: ours === 0 ? 0 : both / ours,
      unit: '',
      isMoreBetter: true,
      ...target,
    };
    yield { name: `${name}: ${label}, recall`, measured: both / theirs, unit: '', isMoreBetter: true, ...target };
  }
}

/** Green points, as finding objects tells them where the cloud has colours. */
function greenOf({ cloud }: SurveyedScene): Uint8Array | undefined {
  if (!cloud.red) return undefined;
  const coloured = cloud as Required<typeof cloud>;
  const histogram = newGreennessHistogram();
  addGreenness(histogram, coloured);
  const parted = greennessLimit(histogram);
  return parted && tooDoubtful(doubtOfGreen(coloured, parted.limit));
}
