import { mkdtemp, readFile, rename, rm, watch, writeFile } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Workbench } from '@pampero/contract';
import { newPointBatch } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import { parcels, parcelService } from '@pampero/demo';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { openBench, type Bench } from './browser.js';

/** Those outside who are asked when the surveyor says so: a service of boundaries, and a drawing program that tells what it read. */
const [E, N, SIDE] = [5_512_200, 6_150_150, 60];
let bench: Bench;
let drawings: string;
let jobId: string;
let service: Server;
let endProgram: AbortController;
/** What the drawing program says of a file, of its text. */
let says: (text: string, name: string) => unknown;
const at = (id: string) => bench.page.getByTestId(id);
const state = async (): Promise<Workbench> =>
  (await (await fetch(`${bench.server.url}/api/jobs/${jobId}`)).json()) as Workbench;
const count = (text: string, what: RegExp): number => text.match(what)?.length ?? 0;

/** A drawing program of another make: counts by itself, and lays its answer beside the file. */
async function drawingProgram(signal: AbortSignal): Promise<void> {
  try {
    for await (const { filename: name } of watch(drawings, { signal })) {
      if (!name || !/\.(dxf|xml)$/.test(name)) continue;
      const text = await readFile(join(drawings, name), 'utf8').catch(() => undefined);
      if (text === undefined) continue;
      const answer = join(drawings, `${name}.read.json`);
      await writeFile(`${answer}.new`, JSON.stringify(says(text, name)));
      await rename(`${answer}.new`, answer);
    }
  } catch (error) {
    if (!signal.aborted) throw error;
  }
}
const asItIs = (text: string, fileName: string): unknown => ({
  fileName,
  format: 'LandXML',
  unit: /linearUnit="meter"/.test(text) ? 'metre' : undefined,
  layers: [],
  surfaces: [{ name: 'Ground', points: count(text, /<P /g), triangles: count(text, /<F>|<F /g) }],
  extent: { min: [E, N, 29], max: [E + SIDE, N + SIDE, 34] },
});

beforeAll(async () => {
  drawings = await mkdtemp(join(tmpdir(), 'pampero-drawings-'));
  endProgram = new AbortController();
  says = asItIs;
  void drawingProgram(endProgram.signal);
  service = parcelService();
  await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
  bench = await openBench({ drawings });
  const body = JSON.stringify({ name: 'Reach 5', epsg: 5347 });
  jobId = ((await (await fetch(`${bench.server.url}/api/jobs`, { method: 'POST', headers: { 'content-type': 'application/json' }, body })).json()) as { id: string }).id; // prettier-ignore
  const points = newPointBatch(6000, { gpsTime: false, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 }); // prettier-ignore
  const random = seededRandom(3);
  for (let i = 0; i < points.count; i++) {
    points.x[i] = Math.round(random() * SIDE * 1000);
    points.y[i] = Math.round(random() * SIDE * 1000);
    points.z[i] = Math.round((30 + 0.02 * (points.x[i]! / 1000) + 0.01 * random()) * 1000);
    points.classification[i] = 2;
    points.returns[i] = 0x11;
  }
  const sink = bufferSink();
  await writeLas(sink, [points], { version: '1.4', pointFormat: 6, quantisation: { scale: [0.001, 0.001, 0.001], offset: [E, N, 0] }, crs: { epsg: 5347 } }); // prettier-ignore
  const path = join(drawings, 'field.las');
  await writeFile(path, sink.bytes());
  await bench.page.goto(`${bench.server.url}/jobs/${jobId}/intake`);
  await at('las-file').setInputFiles(path);
  await bench.page.getByRole('button', { name: /^Import/ }).last().click(); // prettier-ignore
  await vi.waitFor(async () => expect((await state()).clouds).toHaveLength(1), { timeout: 30_000 });
}, 90_000);
afterAll(async () => {
  endProgram.abort();
  service.closeAllConnections();
  service.close();
  await bench?.stop();
  await rm(drawings, { recursive: true, force: true });
});

describe('boundaries from a service', () => {
  test('an address where nobody answers is told, and nothing comes', async () => {
    await at('stage-lines').click();
    await at('part-boundaries').click();
    const form = bench.page.getByTestId('form-fetch-boundaries');
    await at('run-fetch-boundaries').click();
    await form.getByText('This is missing: fill it in.').waitFor();
    await form.getByLabel('Address').fill('http://127.0.0.1:9/');
    await at('run-fetch-boundaries').click();
    await bench.page.getByText('127.0.0.1:9').last().waitFor({ timeout: 30_000 });
    expect((await state()).products).toEqual([]);
  });

  test('parcels about the cloud come as lines of their code, and lie where the service says', async () => {
    const form = bench.page.getByTestId('form-fetch-boundaries');
    await form.getByLabel('Address').fill(`http://127.0.0.1:${(service.address() as AddressInfo).port}`);
    await at('run-fetch-boundaries').click();
    await expect.poll(async () => (await state()).products.map(({ kind }) => kind), { timeout: 30_000 }).toEqual(['lines']); // prettier-ignore
    await bench.page.locator('.layers, aside, nav').getByText('PARCEL').first().waitFor();
    const [fetched] = (await state()).products;
    const reaches = parcels().filter(({ ring }) => {
      const [es, ns] = [ring.map(([e]) => e), ring.map(([, n]) => n)];
      const margin = 20;
      return Math.max(...es) >= E - margin && Math.min(...es) <= E + SIDE + margin && Math.max(...ns) >= N - margin && Math.min(...ns) <= N + SIDE + margin; // prettier-ignore
    });
    expect(fetched!.facts).toMatchObject({ code: 'PARCEL', lines: reaches.length });
  });
});

describe('sent to CAD', () => {
  test('the form asks for an address, or for none where it goes by folder', async () => {
    await fetch(`${bench.server.url}/api/jobs/${jobId}/operations/build-surface`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ clouds: [1] }) }); // prettier-ignore
    await expect.poll(async () => (await state()).products.some(({ kind }) => kind === 'surface'), { timeout: 30_000 }).toBe(true); // prettier-ignore
    await at('stage-deliver').click();
    await at('part-cad').click();
    const form = bench.page.getByTestId('form-send-to-cad');
    const address = form.getByRole('textbox', { name: 'Address' });
    await at('run-send-to-cad').click();
    await form.getByText('Address: give that of the drawing program.').waitFor();
    await form.getByText('folder', { exact: true }).click();
    await address.waitFor({ state: 'detached' });
  });

  test('what the program read is told, and stands in the field book', async () => {
    const form = bench.page.getByTestId('form-send-to-cad');
    await form.getByRole('combobox', { name: 'Lines' }).click();
    await bench.page.getByRole('option', { name: /PARCEL/ }).click();
    await bench.page.keyboard.press('Escape');
    await at('run-send-to-cad').click();
    await bench.page.getByText('1 file sent and understood as sent').first().waitFor({ timeout: 30_000 });
    await at('field-book').click();
    await bench.page.getByText(/LandXML; metres; surface Ground with [\d\s.]+ triangles/).first().waitFor(); // prettier-ignore
    await at('field-book').click();
  });

  test('a program that reads feet for metres is told at once', async () => {
    says = (text, name) => ({ ...(asItIs(text, name) as object), unit: 'international-foot' });
    await at('run-send-to-cad').click();
    await bench.page.getByText('it read international feet; the job is in metres').first().waitFor({ timeout: 30_000 });
    expect(bench.errors).toEqual([]);
  });
});
