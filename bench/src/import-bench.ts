import { copyFile, mkdir, open, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { openLas } from '@pampero/core/formats/las';
import { startServer } from '@pampero/server';
import { createLazPerf } from 'laz-perf';
import { writeBenchFile } from './bench-cloud.js';
import type { Row } from './rows.js';

const MEMORY_TARGET_MB = 1500;

/** Import of LAS and LAZ at several sizes, against a plain copy of the bytes and decoding alone, in the same run. */
export async function* importBench(folder: string, sizes: readonly number[]): AsyncGenerator<Row> {
  const perPoint: number[] = [];
  for (const count of sizes) {
    const las = join(folder, `bench-${count}.las`);
    await writeBenchFile(las, count);
    const copySeconds = await copySynced(las, join(folder, 'copy.las'));
    const fromLas = await importFile(folder, las, 'bench.las');
    perPoint.push(fromLas.seconds / count);
    yield* importRows('LAS', count, fromLas, { name: 'a plain copy with fsync', seconds: copySeconds, target: 4 });
    await rm(las);

    const laz = join(folder, `bench-${count}.laz`);
    await writeBenchFile(laz, count, { isCompressed: true });
    const decodeSeconds = await decodeAlone(laz);
    yield* importRows('LAZ', count, await importFile(folder, laz, 'bench.laz'), {
      name: 'decoding alone on one thread',
      seconds: decodeSeconds,
      target: 1.3,
    });
    await rm(laz);
  }
  if (perPoint.length > 1) {
    yield {
      name: `time a point, ${sizes.at(-1)! / 1e6} M against ${sizes[0]! / 1e6} M points`,
      measured: perPoint.at(-1)! / perPoint[0]!,
      unit: 'times',
      target: 1.2,
    };
  }
}

function* importRows(
  format: string,
  count: number,
  run: ImportRun,
  against: { readonly name: string; readonly seconds: number; readonly target: number },
): Generator<Row> {
  const what = `import ${format}, ${count / 1e6} M`;
  yield { name: `${what} points`, measured: count / run.seconds / 1e6, unit: 'M points/s' };
  yield {
    name: `${what}, against ${against.name}`,
    measured: run.seconds / against.seconds,
    unit: 'times',
    target: against.target,
  };
  yield {
    name: `${what}, peak memory of the server`,
    measured: run.peakBytes / 1e6,
    unit: 'MB',
    target: MEMORY_TARGET_MB,
  };
}

interface ImportRun {
  readonly seconds: number;
  readonly peakBytes: number;
}

async function importFile(folder: string, path: string, fileName: string): Promise<ImportRun> {
  const data = join(folder, 'jobs');
  await rm(data, { recursive: true, force: true });

  await mkdir(data);
  const server = await startServer({ data, port: 0, host: '127.0.0.1', workers: 2, memory: 1500, log: 'silent' });
  const job = await server.library.create({ name: 'Bench', unit: 'metre' });
  const received = server.library.scratchPath('.received');
  await copyFile(path, received);
  let peakBytes = 0;
  const watch = setInterval(() => (peakBytes = Math.max(peakBytes, process.memoryUsage().rss)), 40);
  const begun = performance.now();
  const run = await (
    await server.operations.startWithFile(job.id, 'import-cloud', { path: received, fileName }, {})
  ).finished;
  const seconds = (performance.now() - begun) / 1000;
  clearInterval(watch);
  if (run.state !== 'done') throw new Error(`${fileName}: ${run.outcome ?? run.state}`);
  await server.close();
  await rm(data, { recursive: true, force: true });
  return { seconds, peakBytes };
}

/** Reads and writes every byte, as `cp` on a file system that cannot share blocks does, and waits for the disk. */
async function copySynced(from: string, to: string): Promise<number> {
  const begun = performance.now();
  const [source, target] = [await open(from, 'r'), await open(to, 'w')];
  const buffer = new Uint8Array(8 * 1024 * 1024);
  for (;;) {
    const { bytesRead } = await source.read(buffer, 0, buffer.length, null);
    if (bytesRead === 0) break;
    await target.write(buffer, 0, bytesRead);
  }
  await target.sync();
  await source.close();
  await target.close();
  const seconds = (performance.now() - begun) / 1000;
  await rm(to);
  return seconds;
}

/** laz-perf over all chunks, one thread, the points thrown away. */
async function decodeAlone(path: string): Promise<number> {
  const lazPerf = await createLazPerf();
  const file = await open(path, 'r');
  const { size } = await stat(path);
  const read = async (begin: number, end: number): Promise<Uint8Array> => {
    const bytes = new Uint8Array(Math.min(end, size) - begin);
    await file.read(bytes, 0, bytes.length, begin);
    return bytes;
  };
  const las = await openLas({ name: path, size, read });
  const begun = performance.now();
  const point = lazPerf._malloc(las.header.recordLength);
  for (const chunk of las.chunks!) {
    const bytes = await read(chunk.at, chunk.at + chunk.length);
    const at = lazPerf._malloc(bytes.length);
    lazPerf.HEAPU8.set(bytes, at);
    const decoder = new lazPerf.ChunkDecoder();
    decoder.open(las.format.id, las.header.recordLength, at);
    for (let i = 0; i < chunk.count; i++) decoder.getPoint(point);
    decoder.delete();
    lazPerf._free(at);
  }
  await file.close();
  return (performance.now() - begun) / 1000;
}
