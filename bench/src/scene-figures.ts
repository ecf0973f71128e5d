import { agreementCounts, agreementOf, type Agreement } from '@pampero/core/accuracy';
import { classMask, GROUND } from '@pampero/core/cloud';
import {
  addGreenness,
  doubtOfGreen,
  findGround,
  greennessLimit,
  newGreennessHistogram,
  tooDoubtful,
  pointEvidence,
  proposeGround,
  type GroundProposal,
  type GroundSettings,
  type PointColumns3,
} from '@pampero/core/ground';
import {
  addGround,
  bridgeDecks,
  classifyObjects,
  DECK_MISTAKEN_FOR,
  DECK_SEES,
  type GroundSums,
  deckScale,
  groundModel,
  newGroundSums,
  proposeObjects,
  upperSurface,
  waterAt,
  waterLevels,
  WIDE_ROOFS,
  type ObjectProposal,
} from '@pampero/core/objects';
import type { RasterFrame } from '@pampero/core/raster';
import { QUANTISATION, surveyScene, type SurveyedScene } from '@pampero/demo';
import { VARIATIONS } from './variations.js';
import { terrainErrors, worstErrorsListed, worstPlaces, type TerrainErrors } from './terrain-errors.js';

const [WATER, DECK] = [9, 17];
export const PROPOSED = 'proposed';

/** Methods by name: what is put over the proposed settings. */
export const METHODS: Readonly<Record<string, (settings: GroundSettings) => GroundSettings>> = {
  proposed: (settings) => settings,
  'cloth alone': (settings) => ({ ...settings, method: 'cloth', refine: false, tolerance: 0.12 }),
  'TIN alone': (settings) => ({ ...settings, method: 'tin', refine: false, tolerance: 0.12 }),
  'cloth, second look': (settings) => ({ ...settings, method: 'cloth' }),
};

/** Classes that are looked for, with the precision and recall asked of each. */
export const CLASSES: readonly (readonly [code: number, label: string, precision?: number, recall?: number])[] = [
  [3, 'low vegetation'],
  [4, 'medium vegetation'],
  [5, 'high vegetation', 0.93, 0.93],
  [6, 'building', 0.93, 0.93],
  [9, 'water'],
  [14, 'wire', 0.9, 0.8],
  [15, 'pole', 0.8, 0.8],
  [17, 'bridge deck', 0.9, 0.85],
  [64, 'fence'],
  [65, 'vehicle'],
];

/** What was found in one scene of one seed, against its truth. */
export interface SceneFigures {
  readonly name: string;
  readonly seed: number;
  readonly agreements: Readonly<Record<string, Agreement>>;
  readonly terrain: TerrainErrors;
  /** The same of the points that are ground in truth: no filter can do better. */
  readonly floor: TerrainErrors;
  readonly worst: { readonly held: number; readonly listed: number };
  readonly objects: Readonly<Record<number, ObjectTally>>;
}

export interface ObjectTally {
  readonly both: number;
  readonly ours: number;
  readonly theirs: number;
}

/** What is to be done with one scene. */
export interface SceneTask {
  readonly name: string;
  readonly seed: number;
  /** Of {@link METHODS}. */
  readonly methods: readonly string[];
  /** One of {@link VARIATIONS}. */
  readonly how?: string;
}

export function sceneFigures({ name, seed, methods, how }: SceneTask): SceneFigures {
  const base = surveyScene(name, seed);
  const run = how === undefined ? base : VARIATIONS[how]!(base);
  const proposal = proposalFor(run);
  let found: Uint8Array | undefined;
  const agreements: Record<string, Agreement> = {};
  for (const method of methods) {
    const classes = groundOf(run, METHODS[method]!(proposal.settings));
    agreements[method] = agreementOn(run.cloud.classification, classes);
    if (method === PROPOSED) found = classes;
  }
  const classes = objectsOf(run, found!, proposal);
  findDecks(run, classes);
  // Of what is ground once water and decks were found too: that is what a terrain is made of.
  const terrain = terrainErrors(run, classes);
  const floor = terrainErrors(run, run.cloud.classification);
  return {
    name,
    seed,
    agreements,
    terrain,
    floor,
    worst: worstErrorsListed(run, classes, worstPlaces(terrain, floor)),
    objects: objectTallies(run, classes),
  };
}

/** Water is flat and low, and is told from ground by a search of its own: it counts neither way. */
export function agreementOn(truth: Uint8Array, classes: Uint8Array): Agreement {
  const isCounted = (_: number, i: number): boolean => truth[i] !== WATER;
  return agreementOf(agreementCounts(truth.filter(isCounted), classes.filter(isCounted), GROUND));
}

function columnsOf({ cloud }: SurveyedScene, keep: (i: number) => boolean = () => true): PointColumns3 {
  const chosen = Uint32Array.from({ length: cloud.count }, (_, i) => i).filter(keep);
  const at = (values: Int32Array, axis: 0 | 1 | 2): Float64Array =>
    Float64Array.from(chosen, (i) => values[i]! * QUANTISATION.scale[axis] + QUANTISATION.offset[axis]);
  return { count: chosen.length, x: at(cloud.x, 0), y: at(cloud.y, 1), z: at(cloud.z, 2) };
}

/** What Pampero proposes for the cloud: for its ground, and for what stands on it. */
export function proposalFor(run: SurveyedScene): GroundProposal & { readonly objects: ObjectProposal } {
  const { cloud, scene } = run;
  const isLast = (i: number): boolean => (cloud.returns[i]! & 0x0f) >= cloud.returns[i]! >> 4;
  const last = columnsOf(run, isLast);
  const area = scene.extent.east * scene.extent.north;
  const spacing = Math.sqrt(area / last.count);
  let many = 0;
  for (let i = 0; i < cloud.count; i++) if (isLast(i) && cloud.returns[i]! >> 4 > 1) many++;
  const strip = Uint16Array.from(Uint32Array.from(cloud.x.keys()).filter(isLast), (i) => cloud.pointSourceId[i]!);
  const even = columnsOf(run, (i) => i % 8 === 0);
  const evidence = pointEvidence(even, [{ ...last, strip }], spacing, 1);
  return {
    ...proposeGround(
      { ...evidence, spacing, manyReturns: many / last.count, hasColour: cloud.red !== undefined },
      'metre',
    ),
    objects: proposeObjects({ ...evidence, density: cloud.count / area }, 'metre'),
  };
}

function frameOver({ extent }: SurveyedScene['scene'], cell: number): RasterFrame {
  return {
    east: QUANTISATION.offset[0],
    north: QUANTISATION.offset[1],
    cell,
    columns: Math.ceil(extent.east / cell) + 1,
    rows: Math.ceil(extent.north / cell) + 1,
  };
}

export function groundOf({ cloud, scene }: SurveyedScene, settings: GroundSettings): Uint8Array {
  const { cell } = settings;
  const frame = frameOver(scene, cell);
  const given = { ...cloud, classification: new Uint8Array(cloud.count).fill(1) };
  return findGround(given, QUANTISATION, frame, settings, new Uint8Array(256).fill(1));
}

function objectTallies(run: SurveyedScene, classes: Uint8Array): Record<number, ObjectTally> {
  const tallies = Object.fromEntries(CLASSES.map(([code]) => [code, { both: 0, ours: 0, theirs: 0 }]));
  for (let i = 0; i < run.cloud.count; i++) {
    const [ours, theirs] = [tallies[classes[i]!], tallies[run.cloud.classification[i]!]];
    if (ours) ours.ours++;
    if (theirs) theirs.theirs++;
    if (ours && ours === theirs) ours.both++;
  }
  return tallies;
}

/** What stands on the ground and water, with the settings proposed, one search after another. */
export function objectsOf(
  run: SurveyedScene,
  found: Uint8Array,
  { settings: { cell }, objects: { settings } }: ReturnType<typeof proposalFor>,
): Uint8Array {
  const { cloud, scene } = run;
  const frame = frameOver(scene, cell);
  const isGround = new Uint8Array(256);
  isGround[GROUND] = 1;
  const sums = newGroundSums(frame);
  addGround(sums, { ...cloud, classification: found }, QUANTISATION, isGround);
  const { count, x, y, z } = columnsOf(run) as { count: number } & Record<'x' | 'y' | 'z', Float64Array>;
  const density = count / (scene.extent.east * scene.extent.north);
  const classes = classifyObjects(
    { count, x, y, z },
    groundModel(sums, QUANTISATION)!,
    {
      lowFrom: settings.lowFrom,
      mediumFrom: 0.6,
      highFrom: 3,
      highest: 40,
      roofs: {
        leastHeight: 1.7,
        leastArea: 6.25,
        roughness: settings.roughness,
        radius: settings.radius,
        spacing: 1 / Math.sqrt(density),
        wideBelow: WIDE_ROOFS,
      },
      wires: { leastHeight: 4, radius: settings.wirePiece, leastLength: 4 * settings.wirePiece },
      small: {
        metre: 1,
        spacing: 1 / Math.sqrt(density),
        poles: { leastHeight: 4 },
        fences: settings.fences ? { leastLength: 8 } : undefined,
        hasVehicles: settings.vehicles,
        fenceClass: 64,
        vehicleClass: 65,
      },
    },
    Uint8Array.from(found, (code) => (code === GROUND ? 0 : 1)),
    found,
    count,
    greenOf(run),
  );
  const water = newGroundSums({ ...frame, cell: Math.max(1, Math.sqrt(5 / density)) });
  const all = newGroundSums(water);
  addGround(all, cloud, QUANTISATION, new Uint8Array(256).fill(1));
  addGround(water, { ...cloud, classification: found }, QUANTISATION, isGround);
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
  return classes;
}

/** Bridge decks with the settings proposed, as the operation looks for them after ground and objects. */
export function findDecks({ cloud, scene }: SurveyedScene, classes: Uint8Array): void {
  const { cell, thickness } = deckScale(Math.sqrt((scene.extent.east * scene.extent.north) / cloud.count), 1);
  const frame = frameOver(scene, cell);
  const given = { ...cloud, classification: classes };
  const sumsOf = (codes: readonly number[]): GroundSums => {
    const sums = newGroundSums(frame);
    addGround(sums, given, QUANTISATION, classMask(codes));
    return sums;
  };
  const seen = {
    land: sumsOf(DECK_SEES.land),
    standing: sumsOf(DECK_SEES.standing),
    covering: sumsOf(DECK_SEES.covering),
  };
  const scales = { scale: QUANTISATION.scale[2], offset: QUANTISATION.offset[2] };
  const decks = bridgeDecks(frame, upperSurface(seen, scales), { widest: 30, leastDrop: 1.5, metre: 1 });
  const takes = classMask(DECK_MISTAKEN_FOR);
  for (let i = 0; i < cloud.count; i++) {
    const east = cloud.x[i]! * QUANTISATION.scale[0] + QUANTISATION.offset[0];
    const north = cloud.y[i]! * QUANTISATION.scale[1] + QUANTISATION.offset[1];
    const height = cloud.z[i]! * QUANTISATION.scale[2] + QUANTISATION.offset[2];
    if (takes[classes[i]!] === 1 && Math.abs(height - waterAt(decks, east, north)) <= thickness) classes[i] = DECK;
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
