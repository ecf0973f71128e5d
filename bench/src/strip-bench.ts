import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { writeTrajectory } from '@pampero/core/formats/trajectory';
import {
  adjustStrips,
  georeference,
  PLAIN_SENSOR,
  PoseFinder,
  type PatchPairs,
  type Trajectory,
} from '@pampero/core/strips';
import { seededRandom } from '@pampero/core/task';
import { startServer } from '@pampero/server';
import { writeBenchFile } from './bench-cloud.js';
import type { Row } from './rows.js';

/** Over the bench's cloud: flown strip by strip, fifty records a second. */
function benchFlight(count: number): Trajectory {
  const side = Math.sqrt(count / 12);
  const strips = Math.max(1, Math.round(side / 100));
  const seconds = count * 5e-6;
  const size = Math.floor(seconds * 50) + 2;
  const column = (): Float64Array => new Float64Array(size);
  const [time, east, north, up, roll, pitch, heading] = Array.from({ length: 7 }, column) as [
    Float64Array, Float64Array, Float64Array, Float64Array, Float64Array, Float64Array, Float64Array,
  ]; // prettier-ignore
  for (let i = 0; i < size; i++) {
    const t = i / 50;
    const place = Math.min(0.999999, t / seconds) * strips;
    const strip = Math.floor(place);
    const along = place - strip;
    time[i] = 3e8 + t - 0.01;
    east[i] = 5_500_000 + ((strip + 0.65) * side) / strips;
    north[i] = 6_100_000 + (strip % 2 === 0 ? along : 1 - along) * side;
    up[i] = 220;
    roll[i] = 0.02 * Math.sin(t);
    pitch[i] = 0.02 * Math.cos(t / 1.3);
    heading[i] = strip % 2 === 0 ? 0 : Math.PI;
  }
  return { time, east, north, up, roll, pitch, heading };
}

/** Strips: differences, adjustment, moving points, georeferencing. */
export async function* stripBench(folder: string, count: number): AsyncGenerator<Row> {
  yield* kernels();
  const data = join(folder, `strips-${count}`);
  await mkdir(data);
  const server = await startServer({ data, port: 0, host: '127.0.0.1', workers: 2, memory: 1500, log: 'silent' });
  try {
    const job = await server.library.create({ name: 'Bench', unit: 'metre' });
    const cloud = server.library.scratchPath('.las');
    await writeBenchFile(cloud, count, { overlap: 0.3 });
    const way = server.library.scratchPath('.csv');
    await writeFile(way, [...writeTrajectory(benchFlight(count))].join(''));
    const take = async (id: string, path: string, fileName: string): Promise<void> => {
      const run = await (await server.operations.startWithFile(job.id, id, { path, fileName }, {})).finished;
      if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
    };
    await take('import-cloud', cloud, 'bench.las');
    await take('import-trajectory', way, 'flight.csv');
    let peak = 0;
    const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 200);
    const operate = async (id: string, given: Record<string, unknown>) => {
      const begun = performance.now();
      const run = await (await server.operations.start(job.id, id, given)).finished;
      if (run.state !== 'done') throw new Error(`${id}: ${run.outcome ?? run.state}`);
      return { seconds: (performance.now() - begun) / 1000, productId: run.productId };
    };
    const millions = `${count / 1e6} M points`;
    const speed = (seconds: number): number => count / seconds / 1e6;
    const compared = await operate('compare-strips', { cloud: 1 });
    yield {
      name: `strip differences, ${millions}`,
      measured: speed(compared.seconds),
      unit: 'M points/s',
      target: 2,
      isMoreBetter: true,
    };
    const adjusted = await operate('adjust-strips', { cloud: 1, control: 'none' });
    yield { name: `adjustment with its passes over the cloud, ${millions}`, measured: adjusted.seconds, unit: 's' };
    const applied = await operate('apply-adjustment', { adjustment: adjusted.productId });
    yield {
      name: `moving points, ${millions}`,
      measured: speed(applied.seconds),
      unit: 'M points/s',
      target: 1,
      isMoreBetter: true,
    };
    clearInterval(watch);
    yield { name: `memory of the server at most, ${millions}`, measured: peak / 1024 ** 2, unit: 'MB', target: 1500 };
  } finally {
    await server.close();
    await rm(data, { recursive: true, force: true });
  }
}

const BEAMS = 3_000_000;
const PAIRS = 100_000;

function* kernels(): Generator<Row> {
  const trajectory = benchFlight(30_000_000);
  const random = seededRandom(4);
  const seconds = trajectory.time.at(-1)! - trajectory.time[0]!;
  const draw = (low: number, high: number): Float64Array =>
    Float64Array.from({ length: BEAMS }, () => low + (high - low) * random());
  const scan = {
    count: BEAMS,
    time: Float64Array.from({ length: BEAMS }, (_, i) => trajectory.time[0]! + 0.1 + ((seconds - 0.2) * i) / BEAMS),
    range: draw(90, 130),
    across: draw(-0.6, 0.6),
  };
  const finder = new PoseFinder(trajectory);
  const begun = performance.now();
  georeference(scan, finder, PLAIN_SENSOR, { shortest: 0, longest: 1e9, widest: 3, from: -Infinity, to: Infinity });
  yield {
    name: 'georeferencing, one thread',
    measured: BEAMS / (performance.now() - begun) / 1000,
    unit: 'M points/s',
    target: 0.75,
    isMoreBetter: true,
  };
  const strips = 23;
  const spans = Array.from({ length: strips }, (_, k) => ({
    from: trajectory.time[0]! + (k * seconds) / strips,
    to: trajectory.time[0]! + ((k + 1) * seconds) / strips,
  }));
  const list = (of: (k: number) => number): Float64Array => Float64Array.from({ length: PAIRS }, (_, k) => of(k));
  const one = Uint16Array.from({ length: PAIRS }, (_, k) => k % (strips - 1));
  const at = (strip: number, k: number): number => spans[strip]!.from + 0.05 + ((k * 7919) % 1000) * 1e-5;
  const pairs: PatchPairs = {
    count: PAIRS,
    one,
    two: one.map((strip) => strip + 1),
    x: list((k) => 5_500_000 + (one[k]! + 1) * 66 + 20 * (random() - 0.5)),
    y: list(() => 6_100_000 + 1500 * random()),
    heightOne: list((k) => 100 + 0.02 * Math.sin(k)),
    heightTwo: list((k) => 100 + 0.02 * Math.cos(k)),
    timeOne: list((k) => at(one[k]!, k)),
    timeTwo: list((k) => at(one[k]! + 1, k)),
    slopeEast: list(() => 0.4 * (random() - 0.5)),
    slopeNorth: list(() => 0.4 * (random() - 0.5)),
    sigma: list(() => 0.004),
  };
  const started = performance.now();
  const { unknowns } = adjustStrips(pairs, [], { spans, leverArm: [0, 0, 0] }, finder, {
    groups: ['boresight', 'rangeOffset', 'stripHeight', 'stripDrift'],
    metre: 1,
    timeStep: 10,
    stiffness: 0.02,
  });
  yield {
    name: `adjustment of ${PAIRS / 1000} 000 correspondences and ${unknowns.length} unknowns`,
    measured: (performance.now() - started) / 1000,
    unit: 's',
    target: 10,
  };
}
