import { Copc } from 'copc';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { newPointBatch } from '@pampero/core/cloud';
import { bufferSink, bufferSource } from '@pampero/core/formats';
import { openE57 } from '@pampero/core/formats/e57';
import { openLas, writeLas } from '@pampero/core/formats/las';
import { openPly } from '@pampero/core/formats/ply';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

let host: TestServer;
let base: string;
const source = fieldWithShed();
for (let i = 0; i < source.count; i += 10) source.flags[i] = 4;

beforeAll(async () => {
  host = await testServer();
  const job = await host.api.newJob('Points out');
  await host.api.import(job.id, await lasBytes(source));
  const cloudId = (await host.api.read(job.id)).clouds[0]!.id;
  await host.api.operate(job.id, 'find-ground', { clouds: [cloudId] });
  base = `/jobs/${job.id}/clouds/${cloudId}/points`;
});
afterAll(() => host.stop());

const bytesOf = async (query: string): Promise<Uint8Array> => {
  const { body, status } = await host.api.raw(`${base}?${query}`);
  expect(status, Buffer.from(body.subarray(0, 300)).toString()).toBe(200);
  return body;
};
/** Sorted elevations in millimetres: the same set of points, whatever their order. */
const heights = (values: Iterable<number>): number[] =>
  [...values].map((z) => Math.round(z * 1000)).sort((a, b) => a - b);
const sourceHeights = [...source.z].sort((a, b) => a - b);

describe('points go out', () => {
  test('as LAZ 1.4, whose chunks count every point', async () => {
    const las = await openLas(bufferSource('x.laz', await bytesOf('format=laz')));
    expect([las.format.id, las.pointCount, las.warnings]).toEqual([6, source.count, []]);
    expect(las.chunks!.reduce((sum, chunk) => sum + chunk.count, 0)).toBe(source.count);
  });

  test('as COPC, every cell of which the copc library decodes', async () => {
    const bytes = await bytesOf('format=copc');
    const getter = (begin: number, end: number) => Promise.resolve(bytes.slice(begin, end));
    const copc = await Copc.create(getter);
    expect(copc.header.pointCount).toBe(source.count);
    const { nodes } = await Copc.loadHierarchyPage(getter, copc.info.rootHierarchyPage);
    const found: number[] = [];
    for (const node of Object.values(nodes)) {
      if (!node || node.pointCount === 0) continue;
      const z = (await Copc.loadPointDataView(getter, copc, node)).getter('Z');
      for (let i = 0; i < node.pointCount; i++) found.push(z(i));
    }
    expect(heights(found)).toEqual(sourceHeights);
  });

  test('as E57, PLY, XYZ and CSV, all points with their current classes', async () => {
    const e57 = await openE57(bufferSource('x.e57', await bytesOf('format=e57')));
    const found: number[] = [];
    let ground = 0;
    for await (const batch of e57.batches()) {
      found.push(...batch.elevation);
      ground += batch.classification!.filter((code) => code === 2).length;
    }
    expect(heights(found)).toEqual(sourceHeights);
    expect(ground).toBeGreaterThan(9000);
    expect(e57.crs?.epsg).toBe(5347);

    const ply = await openPly(bufferSource('x.ply', await bytesOf('format=ply')));
    const inPly: number[] = [];
    for await (const batch of ply.batches()) inPly.push(...batch.elevation);
    expect(heights(inPly)).toEqual(sourceHeights);

    const xyz = Buffer.from(await bytesOf('format=xyz'))
      .toString()
      .trim()
      .split('\n')
      .map((line) => line.split(' '));
    expect(xyz).toHaveLength(source.count);
    expect(heights(xyz.map((row) => Number(row[2])))).toEqual(sourceHeights);
    expect(xyz[0]![0]).toMatch(/^55120\d\d\.\d{3}$/);

    const csv = Buffer.from(await bytesOf('format=csv&columns=point-source-id,elevation,gps-time,withheld'))
      .toString()
      .split('\n');
    expect(csv[0]).toBe('point-source-id,elevation,gps-time,withheld');
    expect(csv[1]).toMatch(/^[12],3\d\.\d{3},[\d.e-]+,[01]$/);
  });

  test.each(['laz', 'copc', 'e57', 'ply', 'csv'])(
    'what went out as %s comes in again: the same heights and classes',
    async (format) => {
      const job = await host.api.newJob(`Again from ${format}`);
      const name = { copc: 'again.copc.laz' }[format] ?? `again.${format}`;
      expect(await host.api.import(job.id, await bytesOf(`format=${format}`), name)).toMatchObject({ state: 'done' });
      const [again] = (await host.api.read(job.id)).clouds;
      const [was] = (await host.api.read(base.split('/')[2]!)).clouds;
      expect(again!.pointCount).toBe(source.count);
      expect(again!.classCounts).toEqual(was!.classCounts);
      again!.bounds.min.forEach((value, axis) => expect(value).toBeCloseTo(was!.bounds.min[axis]!, 4));
    },
  );

  test('withheld points can be left out, classes chosen, and a spacing asked for', async () => {
    const count = async (query: string): Promise<number> =>
      (await openLas(bufferSource('x.las', await bytesOf(query)))).pointCount;
    expect(await count('withheld=left-out')).toBe(source.count * 0.9);
    const ground = await count('classes=2');
    expect(ground + (await count('classes=0,1'))).toBe(source.count);

    const las = await openLas(bufferSource('x.las', await bytesOf('spacing=2&classes=2')));
    const places = new Set<string>();
    let kept = 0;
    for await (const batch of las.batches())
      for (let i = 0; i < batch.count; i++, kept++)
        places.add([batch.x[i]!, batch.y[i]!].map((v) => Math.floor(v / 2000)).join());
    // 30 x 30 cells of 2 m less the shed's; a cell's points may lie in two cubes, one over the other.
    expect(kept).toBeGreaterThan(800);
    expect(kept).toBeLessThan(1900);
    expect(places.size).toBeGreaterThan(800);
  });

  test.each([
    ['columns=easting', /Columns are chosen for XYZ and CSV/],
    ['classes=2,x', /class codes with commas|has to be a number/i],
    ['format=csv&columns=red', /no red/],
    ['spacing=-1', /spacing/i],
    ['format=shoebox', /format/i],
  ])('"%s" is refused with a reason', async (query, reason) => {
    const { status, json } = await host.api.raw(`${base}?${query}`);
    expect(status).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(500);
    expect(JSON.stringify(json())).toMatch(reason);
  });
});

describe('a window', () => {
  const cloud = (): string => base.replace(/\/points$/, '');
  const shed: [number, number][] = [
    [5_512_025, 6_150_025],
    [5_512_035, 6_150_025],
    [5_512_035, 6_150_035],
    [5_512_025, 6_150_035],
  ];

  test('counts just the points within, by class, and reads only nodes it reaches', async () => {
    const inside = (i: number): boolean => [source.x[i]!, source.y[i]!].every((v) => v >= 25_000 && v < 35_000);
    const wanted = Array.from({ length: source.count }, (_, i) => i).filter(inside);
    const found = await host.api.call('readWindow', `${cloud()}/window`, { body: { outline: shed } });
    expect(found.points).toBe(wanted.length);
    expect(Object.values(found.classCounts).reduce((sum, n) => sum + n, 0)).toBe(wanted.length);
    expect(found.highest).toBeCloseTo(Math.max(...wanted.map((i) => source.z[i]!)) / 1000, 6);
    expect(found.nodesRead).toBeLessThanOrEqual(found.nodes);
    const ground = await host.api.call('readWindow', `${cloud()}/window`, { body: { outline: shed, classes: [2] } });
    expect(ground.points).toBe(found.classCounts['2'] ?? 0);
    const away = shed.map(([e, n]) => [e + 1000, n] as const);
    expect(await host.api.call('readWindow', `${cloud()}/window`, { body: { outline: away } })).toMatchObject({
      points: 0,
      nodesRead: 0,
    });
  });

  test('whose sides cross is refused with a reason', async () => {
    const outline = [shed[0], shed[2], shed[1], shed[3]];
    const { status, json } = await host.api.raw(`${cloud()}/window`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ outline }),
    });
    expect([status, json().code]).toEqual([422, 'outline-wrong']);
  });
});

test('a cloud that came twice says how many of its points lie exactly on another', async () => {
  const job = await host.api.newJob('Twice');
  const twice = fieldWithShed();
  for (let i = 0; i < twice.count / 2; i++)
    for (const axis of [twice.x, twice.y, twice.z]) axis[twice.count / 2 + i] = axis[i]!;
  await host.api.import(job.id, await lasBytes(twice));
  const cloudId = (await host.api.read(job.id)).clouds[0]!.id;
  const { findings } = await host.api.call('readCloudReport', `/jobs/${job.id}/clouds/${cloudId}/report`);
  expect(findings.map((f) => f.message).join()).toMatch(/5\s400 points lie exactly on another/);
});

describe('infrared', () => {
  test('a cloud of four bands tells near infrared and red together, as they came', async () => {
    const columns = { gpsTime: true, rgb: true, nearInfrared: true, wavePacket: false, extraBytesLength: 0 };
    const points = newPointBatch(3, columns);
    points.x.set([0, 1000, 2000]);
    points.y.set([0, 1000, 0]);
    points.z.set([10_000, 10_100, 10_200]);
    points.returns.fill(0x11);
    points.red!.set([1000, 2000, 65_535]);
    points.nearInfrared!.set([60_000, 2000, 0]);
    const sink = bufferSink();
    await writeLas(sink, [points], { version: '1.4', pointFormat: 8, quantisation: QUANTISATION });
    const { id } = await host.api.newJob('Four bands');
    const run = await host.api.import(id, sink.bytes(), 'four-bands.las');
    expect(run.state, run.outcome).toBe('done');
    const { nodes } = await host.api.call('listNodes', `/jobs/${id}/clouds/${run.productId}/nodes`);
    const [node] = nodes;
    const geometry = await host.api.raw(`/jobs/${id}/nodes/${node!.id}/geometry`);
    const x = new Int32Array(geometry.body.buffer.slice(0, 12));
    const { status, body } = await host.api.raw(`/jobs/${id}/nodes/${node!.id}/columns/infrared?colours=0`);
    expect(status).toBe(200);
    const values = new Uint16Array(body.buffer.slice(0, 12));
    const byPlace = [0, 1, 2].map((k) => [x[k]! / 1000, values[k], values[k + 3]]).sort((a, b) => a[0]! - b[0]!);
    expect(byPlace).toEqual([
      [0, 60_000, 1000],
      [1, 2000, 2000],
      [2, 0, 65_535],
    ]);
  });
});
