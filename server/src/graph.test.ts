import type { Product, ProductKindId } from '@pampero/contract';
import { deflateSync } from 'node:zlib';
import { strToU8, zipSync } from 'fflate';
import { gatherPoints } from '@pampero/core/cloud';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

/** What hangs on what: every kind of product goes stale with what it came from, and is built again in order. */
let host: TestServer;
let field: Uint8Array;
let jobId: string;
let cloudId: number;
const [E, N] = QUANTISATION.offset;

beforeAll(async () => {
  host = await testServer();
  // Every fourth point is enough for a graph.
  const few = gatherPoints(
    fieldWithShed(),
    Uint32Array.from({ length: 2700 }, (_, i) => 4 * i),
  );
  field = await lasBytes(few);
});
afterAll(() => host.stop());
beforeEach(async () => {
  jobId = (await host.api.newJob('Graph')).id;
  cloudId = (await host.api.import(jobId, field)).productId!;
  await host.api.operate(jobId, 'find-ground', { clouds: [cloudId], cell: 2 });
});

async function done(operation: string, parameters: Record<string, unknown>): Promise<number> {
  const run = await host.api.operate(jobId, operation, parameters);
  expect(run.state, run.outcome).toBe('done');
  return run.productId!;
}

/** Sets another class on a corner of the field. */
const editClasses = () =>
  host.api.operate(jobId, 'set-class', {
    selection: [
      {
        how: 'add',
        shape: { kind: 'boundary', corners: [[E, N], [E + 9, N], [E + 9, N + 9], [E, N + 9]], buffer: 0 }, // prettier-ignore
        visible: { hiddenClasses: [], withWithheld: false },
      },
    ],
    classCode: 3,
  });

const staleOnes = async (): Promise<string[]> =>
  (await host.api.read(jobId)).products.filter(({ isStale }) => isStale).map(({ kind }) => kind);

/** One of each kind, each on what is before it. */
async function oneOfEach(): Promise<Record<string, number>> {
  const surface = await done('build-surface', { clouds: [cloudId] });
  const grid = await done('make-grid', { method: 'tin', surfaceId: surface, cell: 1 });
  const ofPoints = await done('make-grid', { method: 'lowest', clouds: [cloudId], cell: 1 });
  const difference = await done('make-grid', { method: 'grid-difference', gridId: ofPoints, otherGridId: grid });
  const contours = await done('draw-contours', { on: 'grid', gridId: grid, interval: 0.5 });
  const volume = await done('measure-volume', { surfaceId: surface, against: 'level', level: 30 });
  const profile = await done('draw-profile', {
    surfaceIds: [surface],
    line: [[E + 5, N + 5], [E + 50, N + 50]], // prettier-ignore
    clouds: [cloudId],
  });
  const list = `1,${N + 10},${E + 10},30.3,GND\n2,${N + 50},${E + 40},31.3,GND\n`;
  await host.api.fromFile(jobId, 'import-control', list, 'checks.csv', { role: 'check' });
  const accuracy = await done('state-accuracy', { surfaceId: surface });
  const spots = await done('number-points', { clouds: [cloudId], which: 'all' });
  const table = await done('count-classes', { clouds: [cloudId] });
  return { surface, grid, ofPoints, difference, contours, volume, profile, accuracy, spots, table };
}

describe('a change of classes', () => {
  test('makes everything that hangs on it stale, whatever the kind, and says why; rebuilding sets all right, in order', async () => {
    const before = await oneOfEach();
    expect(await staleOnes()).toEqual([]);
    await editClasses();
    const { products } = await host.api.read(jobId);
    expect(products.filter(({ isStale }) => !isStale)).toEqual([]);
    const because = Object.fromEntries(products.map((p) => [p.id, p.staleBecause]));
    expect(because[before['surface']!]).toBe('Classes of strip have changed.');
    expect(because[before['ofPoints']!]).toBe('Classes of strip have changed.');
    expect(because[before['spots']!]).toBe('Classes of strip have changed.');
    expect(because[before['grid']!]).toBe('Ground is stale.');

    const { runs, left } = await host.api.rebuild(jobId);
    expect(left).toEqual([]);
    expect(runs.map(({ state, outcome }) => [state, outcome?.slice(0, 0)])).toEqual(runs.map(() => ['done', '']));
    expect(runs.map(({ operation }) => operation)).toEqual([
      'build-surface',
      'make-grid',
      'make-grid',
      'make-grid',
      'draw-contours',
      'measure-volume',
      'draw-profile',
      'state-accuracy',
      'number-points',
      'count-classes',
    ]);
    const after = (await host.api.read(jobId)).products;
    expect(after.map(({ seriesId }) => seriesId)).toEqual(products.map(({ seriesId }) => seriesId));
    expect(after.filter(({ isStale }) => isStale)).toEqual([]);
    // Each has been made anew, from what was made anew.
    for (const product of after) {
      expect(product.id).toBeGreaterThan(Math.max(...Object.values(before)));
      for (const { kind, revision } of product.inputs)
        if (kind === 'product') expect(after.map(({ id }) => String(id))).toContain(revision);
    }
  });

  test('that is taken back leaves all as fresh as it was; done again, as stale', async () => {
    await oneOfEach();
    await editClasses();
    expect((await staleOnes()).length).toBe(10);
    await host.api.undo(jobId);
    expect(await staleOnes()).toEqual([]);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await staleOnes()).length).toBe(10);
  });
});

describe('flags alone', () => {
  test('make stale what looks at flags, and nothing that looks at classes only', async () => {
    await done('build-surface', { clouds: [cloudId] });
    const thin = (distance: number) =>
      host.api.operate(jobId, 'thin-cloud', { clouds: [cloudId], method: 'spacing', distance });
    await thin(4);
    await done('number-points', { clouds: [cloudId] });
    await done('number-points', { clouds: [cloudId], which: 'all' });
    expect(await staleOnes()).toEqual([]);
    await thin(8);
    const { products } = await host.api.read(jobId);
    expect(products.map(({ kind, isStale, parameters }) => [kind, parameters['which'], isStale])).toEqual([
      ['surface', undefined, false],
      ['spots', 'key-points', true],
      ['spots', 'all', false],
    ]);
    expect(products[1]!.staleBecause).toBe('Classes or flags of strip have changed.');
    const { runs } = await host.api.rebuild(jobId);
    expect(runs.map(({ operation, state }) => [operation, state])).toEqual([['number-points', 'done']]);
    await host.api.undo(jobId);
    await host.api.undo(jobId);
    expect(await staleOnes()).toEqual([]);
  });

  test('withheld points are out of a surface, so withholding makes it stale', async () => {
    await done('build-surface', { clouds: [cloudId] });
    await host.api.operate(jobId, 'thin-cloud', { clouds: [cloudId], distance: 5, outcome: 'withhold' });
    expect(await staleOnes()).toEqual(['surface']);
  });
});

describe('a thinning’s map', () => {
  test('is fresh after its own thinning, stale after a change of classes, and made again by thinning again', async () => {
    await host.api.operate(jobId, 'thin-cloud', { clouds: [cloudId], distance: 4, differenceMap: true });
    expect((await host.api.made(jobId, 'grid')).map(({ isStale }) => isStale)).toEqual([false]);
    await editClasses();
    expect(await staleOnes()).toEqual(['grid']);
    const { runs } = await host.api.rebuild(jobId);
    expect(runs.map(({ operation, state }) => [operation, state])).toEqual([['thin-cloud', 'done']]);
    expect((await host.api.made(jobId, 'grid')).map(({ isStale }) => isStale)).toEqual([false]);
  });

  test('of a thinning that withheld points is left, with the reason: done again it would thin what was thinned', async () => {
    const parameters = { clouds: [cloudId], distance: 4, outcome: 'withhold', differenceMap: true };
    await host.api.operate(jobId, 'thin-cloud', parameters);
    await editClasses();
    const { runs, left } = await host.api.rebuild(jobId);
    expect(runs).toEqual([]);
    expect(left).toMatchObject([{ because: 'Thin again: the thinning itself has changed the job since.' }]);
  });
});

describe('other inputs', () => {
  test('a statement goes stale with the check points, and with nothing else of them', async () => {
    await oneOfEach();
    await host.api.fromFile(jobId, 'import-control', `9,${N + 20},${E + 20},30.6,GND\n`, 'more.csv', { role: 'check' });
    const stale = (await host.api.read(jobId)).products.filter(({ isStale }) => isStale);
    expect(stale.map(({ kind, staleBecause }) => [kind, staleBecause])).toEqual([
      ['accuracy', 'The control or check points have changed.'],
    ]);
    await host.api.rebuild(jobId);
    expect((await host.api.newest(jobId, 'accuracy')).facts.points).toHaveLength(3);
  });

  test('numbered points that were edited by hand are not numbered over, and it is said', async () => {
    const spots = await done('number-points', { clouds: [cloudId], which: 'all' });
    await done('edit-points', { spotsId: spots, changes: [{ index: 0, number: 'BM1' }] });
    expect(await staleOnes()).toEqual([]);
    await editClasses();
    const { runs, left } = await host.api.rebuild(jobId);
    expect(runs).toEqual([]);
    expect(left[0]!.because).toMatch(/^Its numbers or codes were edited by hand/);
    expect((await host.api.newest(jobId, 'spots')).facts.isEdited).toBe(true);
  });

  test('a surface whose lines were taken back is stale and left; with them back it is fresh', async () => {
    const line = JSON.stringify({ type: 'LineString', coordinates: [[E + 5, N + 20, 31], [E + 55, N + 20, 31]] }); // prettier-ignore
    const lines = (await host.api.fromFile(jobId, 'import-lines', line, 'ditch.geojson')).productId!;
    await done('build-surface', { clouds: [cloudId], lines: [lines] });
    await host.api.undo(jobId);
    await host.api.undo(jobId);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    await done('build-surface', { clouds: [cloudId], lines: [lines] });
    const surface = (await host.api.made(jobId, 'surface'))[0]!;
    expect(surface.inputs.map(({ kind }) => kind)).toEqual(['cloud', 'product']);
    expect(surface.isStale).toBe(false);
  });

  test('what was edited by hand hangs on what the one before hung on, also when that is stale', async () => {
    const surface = await done('build-surface', { clouds: [cloudId] });
    await editClasses();
    await done('edit-surface', {
      surfaceId: surface,
      edits: [{ kind: 'add', place: [E + 40, N + 40], elevation: 40 }],
    });
    expect(await staleOnes()).toEqual(['surface']);
    await host.api.rebuild(jobId);
    const again = await host.api.newest(jobId, 'surface');
    expect(again).toMatchObject({ isStale: false, facts: { highest: 40, editsRefused: 0 } });
  });

  test('a product that cannot be built again stops those that hang on it, and they say so', async () => {
    const surface = await done('build-surface', { clouds: [cloudId] });
    await done('draw-contours', { surfaceId: surface, interval: 0.5 });
    // No ground is left: the surface cannot be built.
    await host.api.operate(jobId, 'set-class', {
      selection: [{ how: 'add', shape: { kind: 'all' }, visible: { hiddenClasses: [], withWithheld: false } }],
      classCode: 6,
    });
    const { runs } = await host.api.rebuild(jobId);
    expect(runs.map(({ operation, state, error }) => [operation, state, error?.code])).toEqual([
      ['build-surface', 'failed', 'too-few-points'],
      ['draw-contours', 'failed', 'input-stale'],
    ]);
    // The old ones are still there.
    expect(await staleOnes()).toEqual(['surface', 'contours']);
  });
});

test('every kind of product leaves in every one of its formats; another format is refused with those that there are', async () => {
  const { PRODUCT_KINDS } = await import('@pampero/contract');
  await oneOfEach();
  const line = JSON.stringify({ type: 'LineString', coordinates: [[E + 5, N + 20, 31], [E + 55, N + 20, 31]] }); // prettier-ignore
  await host.api.fromFile(jobId, 'import-lines', line, 'ditch.geojson');
  const ditch = (await host.api.made(jobId, 'lines')).at(-1)!.id;
  await done('cut-sections', { along: ditch, surfaceId: (await host.api.newest(jobId, 'surface')).id });
  await done('draw-plan', { contours: [(await host.api.newest(jobId, 'contours')).id], lines: [ditch] });
  await done('find-breaks', { clouds: [cloudId], kind: 'bend' });
  const flown = [0, 1, 2].map((t) => `${5 * t},${E + 30},${N + 25 * t},100,0,0,0`);
  const way = ['time,east,north,height,roll,pitch,heading', ...flown].join('\n');
  await host.api.fromFile(jobId, 'import-trajectory', way, 'way.csv');
  await host.api.fromFile(jobId, 'import-cloud', await lasBytes(fieldWithShed()), 'two strips.las');
  const twoStrips = (await host.api.read(jobId)).clouds.at(-1)!.id;
  await done('find-strips', { cloud: twoStrips });
  await done('compare-strips', { cloud: twoStrips });
  await done('adjust-strips', { cloud: twoStrips, solve: 'chosen', boresight: false });
  const pixels = new Uint8Array(3 * 64 * 64).map((_, k) => (k * 37) % 251);
  const frame = { east: E, north: N, cell: 1, columns: 64, rows: 64 };
  const tiff = writeGeoTiff(pixels, frame, { epsg: 5347, deflate: (bytes) => deflateSync(bytes) });
  const picture = (await host.api.fromFile(jobId, 'import-picture', tiff, 'chequered.tif')).productId;
  await done('check-shift', { picture, cloud: twoStrips });
  await done('mask-by-colour', { picture, painted: [{ path: [[E + 20, N + 20]], radius: 5, adds: true }] });
  const list = strToU8(`file,east,north,height,omega,phi,kappa\na.tif,${E + 30},${N + 30},120,0,0,0\n`);
  const photographs = zipSync({ 'a.tif': tiff, 'list.csv': list });
  await host.api.fromFile(jobId, 'import-photographs', photographs, 'photographs.zip', {
    focalLength: 8,
    pixelSize: 12,
  });
  const { products } = await host.api.read(jobId);
  const ofKind = (kind: ProductKindId): Product => products.find((product) => product.kind === kind)!;
  for (const kind of PRODUCT_KINDS) {
    for (const { id, ending } of kind.formats) {
      const { status, body, disposition } = await fileOf(ofKind(kind.id).id, id);
      expect([kind.id, id, status]).toEqual([kind.id, id, 200]);
      expect(body.length).toBeGreaterThan(20);
      expect(disposition).toContain(ending);
    }
    const answer = await host.api.raw(`/jobs/${jobId}/products/${ofKind(kind.id).id}/file?format=doc`);
    expect(answer.json()).toMatchObject({ status: 422, code: 'no-such-format' });
    expect(answer.json()['fix']).toBe(`Ask for one of: ${kind.formats.map(({ id }) => id).join(', ')}.`);
  }
  async function fileOf(id: number, format: string) {
    const response = await fetch(`${host.api.url}/api/jobs/${jobId}/products/${id}/file?format=${format}`);
    return {
      status: response.status,
      disposition: response.headers.get('content-disposition') ?? '',
      body: new Uint8Array(await response.arrayBuffer()),
    };
  }
});
