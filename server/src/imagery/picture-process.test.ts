import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Cancelled } from '@pampero/core/task';
import { describeApart, readApart } from './picture-process.js';

let folder: string;
let path: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-pictures-'));
  path = join(folder, 'field.png');
  await sharp({ create: { width: 300, height: 200, channels: 3, background: '#7a5' } })
    .png()
    .toFile(path);
  await writeFile(join(folder, 'cut.png'), (await readFile(path)).subarray(0, 40));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Processes that this one has begun to read pictures. */
async function readers(): Promise<number[]> {
  const pids: number[] = [];
  for (const entry of await readdir('/proc')) {
    if (!/^\d+$/.test(entry)) continue;
    const [status, command] = await Promise.all(
      ['status', 'cmdline'].map((name) => readFile(`/proc/${entry}/${name}`, 'utf8').catch(() => '')),
    );
    const isOurs = new RegExp(`^PPid:\\s+${process.pid}$`, 'm').test(status!) && !/^State:\s+Z/m.test(status!);
    if (isOurs && command!.includes('picture-main')) pids.push(Number(entry));
  }
  return pids;
}

const field = (): Promise<unknown> => describeApart({ path, fileName: 'field.png' });

test('one process answers question after question', async () => {
  // Other tests of this process may have left one, which ends soon.
  await expect.poll(readers, { timeout: 20_000 }).toEqual([]);
  expect(await field()).toMatchObject({ columns: 300, rows: 200, bands: 'colour' });
  const [first, ...more] = await readers();
  expect(more).toEqual([]);
  await field();
  expect(await readers()).toEqual([first]);
  // Two at once need two; one is kept.
  await Promise.all([field(), field()]);
  await expect.poll(async () => (await readers()).length).toBe(1);
});

test('after a file that cannot be read, and after a cancel, a new process begins', async () => {
  await field();
  const [before] = await readers();
  await expect(describeApart({ path: join(folder, 'cut.png'), fileName: 'cut.png' })).rejects.toThrow(
    /cut\.png cannot be read/,
  );
  await expect.poll(readers).not.toContain(before);
  const described = await describeApart({ path, fileName: 'field.png' });
  const [next] = await readers();
  expect(next).not.toBe(before);
  const stop = new AbortController();
  const frame = { columns: 300, rows: 200, east: 0, eastPerColumn: 1, eastPerRow: 0, north: 0, northPerColumn: 0, northPerRow: -1 }; // prettier-ignore
  const reading = readApart(
    { path, fileName: 'field.png', described, frame, isExact: false, folder },
    stop.signal,
    () => undefined,
  );
  stop.abort();
  await expect(reading).rejects.toThrow(Cancelled);
  await expect.poll(readers).not.toContain(next);
});

test('one that was ended while it waited is not missed', async () => {
  await field();
  const [kept] = await readers();
  process.kill(kept!, 'SIGKILL');
  await expect.poll(readers).not.toContain(kept);
  expect(await field()).toMatchObject({ columns: 300 });
  // Asked at once, before this process can have heard of the end.
  const [next] = await readers();
  process.kill(next!, 'SIGKILL');
  expect(await field()).toMatchObject({ columns: 300 });
});

test('a picture that takes too long to say what it is, is damaged', async () => {
  await expect(describeApart({ path, fileName: 'field.png' }, 0)).rejects.toThrow(/what it says of itself has no end/);
  // The next one is not the worse for it.
  await expect(field()).resolves.toMatchObject({ columns: expect.any(Number) as number });
});
