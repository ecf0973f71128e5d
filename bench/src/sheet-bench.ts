import { execFile, spawn } from 'node:child_process';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { BENCH_QUANTISATION, writeBenchFile } from './bench-cloud.js';
import type { Row } from './rows.js';

const bin = fileURLToPath(new URL('../../server/bin/pampero.mjs', import.meta.url));
const call = promisify(execFile);
const TRIES = 5;

/** The lidar run sheet from a file to products by the command, with the share of each step; and how soon the command answers. */
export async function* sheetBench(folder: string, points: number): AsyncGenerator<Row> {
  const starts: number[] = [];
  for (let k = 0; k < TRIES; k++) {
    const begun = performance.now();
    await call(process.execPath, [bin, '--help']);
    starts.push(performance.now() - begun);
  }
  yield {
    name: 'the command answers (--help), median',
    measured: starts.sort((a, b) => a - b)[2]! / 1000,
    unit: 's',
    target: 1,
  };

  const file = join(folder, 'sheet.las');
  await writeBenchFile(file, points);
  const [east, north] = BENCH_QUANTISATION.offset;
  // Where the check points lie does not matter to the time; the gate is gone through.
  const checks = Array.from({ length: 30 }, (_, k) => `C${k},${north + 20 + 3 * k},${east + 15 + 5 * k},100,GND`);
  await writeFile(join(folder, 'checks.csv'), checks.join('\n'));
  const out = join(folder, 'sheet-out');
  const begun = performance.now();
  const lines = await linesOf(['run', 'lidar-to-contours', '--in', file, '--checks', join(folder, 'checks.csv'), '--out', out, '--accept', 'accuracy-holds=A bench.', '--json']); // prettier-ignore
  const seconds = (performance.now() - begun) / 1000;
  yield { name: `lidar run sheet, ${points / 1e6} M points, file to products`, measured: seconds, unit: 's' };
  yield { name: `lidar run sheet, ${points / 1e6} M points`, measured: points / seconds / 1e6, unit: 'M points/s' };
  for (const { title, took } of lines) yield { name: `  ${title}`, measured: took / 1000, unit: 's' };
  const sums = (await readFile(join(out, 'SHA256SUMS.txt'), 'utf8')).trim().split('\n').length;
  yield { name: '  files written', measured: sums, unit: 'files' };
  await rm(out, { recursive: true, force: true });
  await rm(file);
}

/** What each step took, by the moments at which it was told to be done. */
function linesOf(args: readonly string[]): Promise<{ title: string; took: number }[]> {
  const child = spawn(process.execPath, [bin, ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
  const found: { title: string; took: number }[] = [];
  let last = performance.now();
  let rest = '';
  let isWriting = false;
  child.stdout.on('data', (chunk: Buffer) => {
    rest += chunk.toString();
    const lines = rest.split('\n');
    rest = lines.pop()!;
    for (const line of lines) {
      const told = JSON.parse(line) as { text?: string; step?: string; state?: string; file?: string };
      if (told.state !== undefined && told.text !== undefined) {
        found.push({ title: told.text.split(':')[0]!, took: performance.now() - last });
        last = performance.now();
      } else if (told.file !== undefined && !isWriting) {
        isWriting = true;
        found.push({ title: 'Writing the files', took: performance.now() - last });
      }
    }
  });
  return new Promise((resolve, reject) =>
    child.once('exit', (code) => (code === 0 ? resolve(found) : reject(new Error(`The command ended with ${code}.`)))),
  );
}
