import { newestLand } from '@pampero/contract';
import { unpackLines } from '@pampero/core/lines';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { QUANTISATION, testServer, type TestServer } from './server.fixture.js';

/** Designs by rule on level land, 100 by 100 at 10.00, whose earth is known by the hand. */
let host: TestServer;
let jobId: string;
let ground: number;
const [E, N] = QUANTISATION.offset;
/** A fan of ten degrees lies inside its circle. */
const FAN = Math.sin(Math.PI / 18) / (Math.PI / 18);

beforeAll(async () => {
  host = await testServer();
  jobId = (await host.api.newJob('Raised bank')).id;
  ground = (await host.api.fromFile(jobId, 'import-surface', level(10), 'ground.asc')).productId!;
  await draw('PAD', [[40, 40], [60, 40], [60, 60], [40, 60]], { isClosed: true, z: 13 }); // prettier-ignore
  await draw('CREST', [[30, 50], [70, 50]], { z: null }); // prettier-ignore
});
afterAll(() => host.stop());

function level(z: number): string {
  const rows = Array.from({ length: 21 }, () => Array.from({ length: 21 }, () => z.toFixed(2)).join(' '));
  return `ncols 21\nnrows 21\nxllcorner ${E - 2.5}\nyllcorner ${N - 2.5}\ncellsize 5\nNODATA_value -9999\n${rows.join('\n')}\n`;
}

async function draw(
  code: string,
  places: readonly (readonly [number, number])[],
  { isClosed = false, z, key }: { readonly isClosed?: boolean; readonly z: number | null; readonly key?: number },
): Promise<void> {
  const line = { code, isClosed, easting: places.map(([e]) => E + e), northing: places.map(([, n]) => N + n), elevation: places.map(() => z), ...(key !== undefined && { key }) }; // prettier-ignore
  const run = await host.api.operate(jobId, 'draw-lines', { put: [line] });
  expect(run.state, run.outcome).toBe('done');
}

const lineOf = async (code: string): Promise<number> =>
  (await host.api.made(jobId, 'lines')).find(({ facts }) => facts.code === code)!.id;
const design = async (code: string, more: Record<string, unknown> = {}) =>
  host.api.operate(jobId, 'design-earthwork', { along: await lineOf(code), surfaceId: ground, ...more });
const designs = async () =>
  (await host.api.made(jobId, 'surface')).filter(({ facts }) => facts.design !== undefined).sort((a, b) => a.id - b.id);

describe('a design by rule', () => {
  test('a pad within a closed line: its earth is that of its sections, and measuring it says the same', async () => {
    const run = await design('PAD', { fillSlope: 2, name: 'Pad, 1 in 2' });
    expect(run.outcome).toMatch(/^Pad, 1 in 2 on .*: cut 0\.00 m³, fill 2\D032\.5 m³$/);
    const fill = 400 * 3 + (80 * 2 * 9) / 2 + (Math.PI * FAN * 4 * 27) / 3;
    const [pad] = await designs();
    expect(pad!.facts.design).toMatchObject({ cut: expect.closeTo(0, 6) as number, fill: expect.closeTo(fill, 3) as number, open: 0 }); // prettier-ignore
    const volume = await host.api.operate(jobId, 'measure-volume', { surfaceId: pad!.id, against: 'surface', otherId: ground }); // prettier-ignore
    expect(volume.outcome).toContain(`fill ${fill.toFixed(1)} m³`);
  });

  test('alternatives stay side by side, each with its own slopes', async () => {
    await design('PAD', { fillSlope: 3, name: 'Pad, 1 in 3' });
    const [first, second] = await designs();
    expect([first!.name, second!.name]).toEqual(['Pad, 1 in 2', 'Pad, 1 in 3']);
    const fill = 400 * 3 + (80 * 3 * 9) / 2 + (Math.PI * FAN * 9 * 27) / 3;
    expect(second!.facts.design!.fill).toBeCloseTo(fill, 3);
  });

  test('a bank along an open line: refused without elevations, made at a level', async () => {
    const refused = await design('CREST');
    expect(refused).toMatchObject({ state: 'failed', error: { code: 'line-without-elevation' } });
    const bank = await design('CREST', { levels: 'level', level: 12, crestWidth: 4, name: 'Bank' });
    expect(bank.state).toBe('done');
    const fill = 160 * 2 + (88 * 2 * 4) / 2 + (Math.PI * FAN * 4 * 8) / 3;
    expect((await designs()).at(-1)!.facts.design!.fill).toBeCloseTo(fill, 3);
  });

  test('built into the ground it is the land as it will be: as much more earth, stale with either, and not taken for the land as it is', async () => {
    const [pad, , bank] = await designs();
    const run = await host.api.operate(jobId, 'build-in-designs', { surfaceId: ground, designIds: [pad!.id] });
    expect(run.state, run.outcome).toBe('done');
    const built = (await host.api.made(jobId, 'surface')).find(({ id }) => id === run.productId)!;
    expect(built.facts).toMatchObject({ withDesigns: 1, areaInPlan: expect.closeTo(100 * 100, 6) as number });
    const volume = await host.api.operate(jobId, 'measure-volume', { surfaceId: built.id, against: 'surface', otherId: ground }); // prettier-ignore
    expect(volume.outcome).toContain(`fill ${pad!.facts.design!.fill.toFixed(1)} m³`);
    expect(volume.outcome).toContain('cut 0.0');
    expect(built.inputs.map(({ id }) => id).sort((a, b) => a - b)).toEqual([ground, pad!.id].sort((a, b) => a - b));
    expect(newestLand(await host.api.made(jobId, 'surface'))!.id).toBe(ground);
    const both = await host.api.operate(jobId, 'build-in-designs', {
      surfaceId: ground,
      designIds: [pad!.id, bank!.id],
    });
    expect(both.outcome).toMatch(/^2 designs built into/);
    const refused = await host.api.operate(jobId, 'build-in-designs', { surfaceId: ground, designIds: [ground] });
    expect([refused.state, refused.outcome]).toEqual(['failed', expect.stringContaining('no design')]);
    for (let k = 0; k < 3; k++) await host.api.call('undo', `/jobs/${jobId}/undo`);
  });

  test('cross sections against the ground: end areas as by hand, w h + s h² each', async () => {
    const bank = (await designs()).at(-1)!;
    const run = await host.api.operate(jobId, 'cut-sections', { along: await lineOf('CREST'), surfaceId: ground, otherId: bank.id, step: 10, left: 12, right: 12 }); // prettier-ignore
    expect(run.state, run.outcome).toBe('done');
    const { facts } = await host.api.newest(jobId, 'sections');
    const of = (label: string): number => Number(facts.figures.find((figure) => figure.label === label)!.value);
    expect(of('Fill, end areas')).toBeCloseTo(40 * (4 * 2 + 2 * 2 ** 2), 3);
    expect(of('Fill, exact')).toBeCloseTo(40 * (4 * 2 + 2 * 2 ** 2), 3);
  });

  test('its line moved, it is stale; rebuilt, it follows', async () => {
    const before = await lineOf('CREST');
    const [drawn] = unpackLines(new Uint8Array(await host.api.shown(jobId, before)));
    await draw('CREST', [[30, 50], [50, 50]], { z: null, key: drawn!.key }); // prettier-ignore
    const bank = (await designs()).at(-1)!;
    expect(bank.staleBecause).toBe('CREST has changed.');
    expect(await lineOf('CREST')).not.toBe(before);
    await host.api.rebuild(jobId);
    const again = (await designs()).find(({ name }) => name === 'Bank')!;
    expect(again.isStale).toBe(false);
    expect(again.facts.design!.fill).toBeCloseTo(80 * 2 + (48 * 2 * 4) / 2 + (Math.PI * FAN * 4 * 8) / 3, 3);
  });

  test('is in the report with its earth, and is not taken for the land', async () => {
    const { status, body } = await host.api.raw(`/jobs/${jobId}/report`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ format: 'html', parts: ['surfaces', 'map'] }),
    });
    const words = Buffer.from(body)
      .toString()
      .replace(/<[^>]+>/g, ' ')
      .replace(/\s+/g, ' ');
    expect(status, words).toBe(200);
    expect(words).toMatch(/Design Cut Fill Net/);
    expect(words).toMatch(/Pad, 1 in 2 0 m³ 2 033 m³ 2 033 m³/);
    expect(words).toMatch(/ground with|ground, north up/);
  });

  test('leaves as LandXML like any surface, with its triangles', async () => {
    const [pad] = await designs();
    const xml = (await host.api.file(jobId, pad!.id, 'landxml')).toString();
    expect((xml.match(/<F[ >]/g) ?? []).length).toBe(pad!.facts.facets);
  });

  test('a level that is missing, slopes of nothing and a line that is not there are refused with what is wrong', async () => {
    const along = await lineOf('PAD');
    const wrong = async (given: Record<string, unknown>) => {
      const { status, json } = await host.api.raw(`/jobs/${jobId}/operations/design-earthwork`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ along, surfaceId: ground, ...given }),
      });
      return [status, JSON.stringify(json())] as const;
    };
    expect(await wrong({ levels: 'level' })).toEqual([400, expect.stringContaining('Type the level, in metres.')]);
    expect(await wrong({ fillSlope: 0 })).toEqual([
      400,
      expect.stringContaining('Slope in fill, 1 in cannot be under'),
    ]);
    expect((await wrong({ along: 9999 }))[0]).toBe(404);
    const none = await design('PAD', { key: 77 });
    expect(none).toMatchObject({ state: 'failed', error: { code: 'no-lines' } });
  });

  test('off the ground there is none, and nothing is stored', async () => {
    await draw('AWAY', [[400, 400], [420, 400]], { z: 12 }); // prettier-ignore
    const before = (await designs()).length;
    const run = await design('AWAY');
    expect(run).toMatchObject({ state: 'failed', error: { code: 'line-off-surface' } });
    expect(await designs()).toHaveLength(before);
  });
});
