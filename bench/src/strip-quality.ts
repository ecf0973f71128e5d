import { mkdtemp, rm } from 'node:fs/promises';
import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeTrajectory } from '@pampero/core/formats/trajectory';
import { toDegrees, toRadians } from '@pampero/core/strips';
import { seededRandom } from '@pampero/core/task';
import { flyRaw, pnezd, QUANTISATION, sceneOf, writeScan, type FlightErrors, type Scene } from '@pampero/demo';
import { startServer, type RunningServer } from '@pampero/server';
import type { ProductOf } from '@pampero/contract';
import type { Row } from './rows.js';

interface Flown {
  readonly name: string;
  readonly scene: string;
  /** Strips that are left out of the scene's flight, from its end. */
  readonly without: number;
}

const FLIGHTS: readonly Flown[] = [
  { name: 'flat farm', scene: 'levee-farm', without: 0 },
  { name: 'hilly village', scene: 'terraces', without: 0 },
  { name: 'hilly village, no cross strip', scene: 'terraces', without: 1 },
];

const BORESIGHT = [toRadians(-0.07), toRadians(0.12), toRadians(-0.16)] as const;
const HEIGHTS = [0.02, -0.035, 0.012, 0.04, -0.028, 0.015, -0.01, 0.03];
const NOISE = { positionNoise: 0.003, angleNoise: toRadians(0.0015) };

/** How well errors put into simulated flights are found again, through the whole chain from raw ranges. */
export async function* stripQuality(seeds: readonly number[]): AsyncGenerator<Row> {
  for (const flown of FLIGHTS)
    for (const seed of seeds) {
      const wrong = await adjustFlight(flown, seed, {
        ...NOISE,
        boresight: BORESIGHT,
        stripHeights: HEIGHTS,
        heightDrift: 0.005,
      });
      const of = (what: string): string => `${flown.name}, seed ${seed}: ${what}`;
      const turns = wrong.facts.unknowns.filter(({ group }) => group === 'boresight');
      const off = (axis: number): number => Math.abs(turns[axis]!.value - toDegrees(BORESIGHT[axis]!));
      for (const [axis, name, target] of [
        [0, 'roll', 0.003],
        [1, 'pitch', 0.003],
        [2, 'heading', 0.008],
      ] as const)
        yield turns[axis]!.isHeld
          ? { name: of(`${name}, not told by the flight and held`), measured: 0, unit: '°' }
          : { name: of(`${name} off by`), measured: off(axis), unit: '°', target };
      const heights = wrong.facts.unknowns.filter(({ group, isHeld }) => group === 'stripHeight' && !isHeld);
      const found = heights.map(({ value }, k) => value - wrong.heightsOff[k]!);
      const mean = found.reduce((sum, v) => sum + v, 0) / found.length;
      yield {
        name: of('heights of strips to each other off by, most'),
        measured: 1000 * Math.max(...found.map((v) => Math.abs(v - mean))),
        unit: 'mm',
        target: 5,
      };
      yield {
        name: of('RMSDz after, over what ranging noise leaves'),
        measured: wrong.facts.after.all.rmsd / wrong.facts.expected,
        unit: 'times',
        target: 1.5,
      };
      const kept = wrong.facts.control.filter(({ isKeptOut }) => isKeptOut).map(({ after }) => after);
      yield {
        name: of(`RMSEz at ${kept.length} planes at check points`),
        measured: 1000 * Math.sqrt(kept.reduce((sum, v) => sum + v * v, 0) / kept.length),
        unit: 'mm',
        target: 20,
      };
      const right = await adjustFlight(flown, seed + 1, NOISE);
      yield {
        name: of('nothing wrong: most found, in standard deviations'),
        measured: Math.max(
          ...right.facts.unknowns.flatMap(({ value, standardDeviation, isHeld }) =>
            isHeld ? [] : [Math.abs(value) / standardDeviation],
          ),
        ),
        unit: 'times',
        target: 3,
      };
    }
}

async function adjustFlight(
  { scene: name, without }: Flown,
  seed: number,
  errors: FlightErrors,
): Promise<ProductOf<'adjustment'> & { readonly heightsOff: readonly number[] }> {
  const folder = await mkdtemp(join(tmpdir(), 'pampero-strips-'));
  const whole = sceneOf(name, seed);
  const { strips } = whole.flight;
  const scene: Scene = {
    ...whole,
    flight: { ...whole.flight, lineSpacing: 0.7, pointSpacing: 0.55, strips: strips.slice(0, strips.length - without) },
  };
  const raw = flyRaw(scene, seed, errors);
  const server = await startServer({
    data: folder,
    port: 0,
    host: '127.0.0.1',
    workers: 2,
    memory: 1500,
    log: 'silent',
  });
  try {
    const job = await server.library.create({ name: 'Flight', unit: 'metre' });
    const take = async (id: string, pieces: Iterable<string>, fileName: string, given: object): Promise<number> => {
      const path = server.library.scratchPath('.part');
      const stream = createWriteStream(path);
      for (const piece of pieces) if (!stream.write(piece)) await once(stream, 'drain');
      stream.end();
      await once(stream, 'finish');
      const { finished } = await server.operations.startWithFile(job.id, id, { path, fileName }, { ...given });
      return ended(await finished);
    };
    const { control, check } = surveyed(scene, seed);
    await take('import-control', [pnezd(control)], 'control.csv', { role: 'control' });
    await take('import-control', [pnezd(check)], 'check.csv', { role: 'check' });
    const trajectory = await take('import-trajectory', writeTrajectory(raw.trajectory), 'flight.csv', {});
    const [leverForward, leverRight, leverDown] = raw.sensor.leverArm;
    const lever = { leverForward, leverRight, leverDown };
    await take('georeference-scan', writeScan(raw), 'scan.csv', { trajectory, ...lever });
    const run = await (
      await server.operations.start(job.id, 'adjust-strips', { cloud: 1, trajectory, ...lever })
    ).finished;
    return { ...(await readAdjustment(server, job.id, ended(run))), heightsOff: raw.heightsOff };
  } finally {
    await server.close();
    await rm(folder, { recursive: true, force: true });
  }
}

function ended(run: { state: string; outcome?: string | undefined; productId?: number | undefined }): number {
  if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
  return run.productId ?? 0;
}

async function readAdjustment(server: RunningServer, jobId: string, id: number): Promise<ProductOf<'adjustment'>> {
  const answer = (await (await fetch(`${server.url}/api/jobs/${jobId}`)).json()) as {
    products: ProductOf<'adjustment'>[];
  };
  return answer.products.find((product) => product.id === id)!;
}

/** Surveyed points on hard or bare ground, a centimetre up: eight control points and thirty check points. */
function surveyed(scene: Scene, seed: number) {
  const random = seededRandom(seed + 77);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const points = [];
  for (let tries = 0; points.length < 38 && tries < 20_000; tries++) {
    const east = 15 + (scene.extent.east - 30) * random();
    const north = 15 + (scene.extent.north - 30) * random();
    const z = scene.ground(east, north);
    const rise = Math.max(
      ...[-1, 1].map((d) => Math.abs(scene.ground(east + d, north) - z) + Math.abs(scene.ground(east, north + d) - z)),
    );
    if (rise > 0.25 || scene.grass(east, north) > 0.1 || scene.water(east, north) > z) continue;
    points.push({
      number: `P${points.length + 1}`,
      easting: QUANTISATION.offset[0] + east,
      northing: QUANTISATION.offset[1] + north,
      elevation: z + 0.01 * normal(),
      code: 'CHK',
    });
  }
  return { control: points.slice(0, 8), check: points.slice(8) };
}
