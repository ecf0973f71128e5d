import { Copc, type Getter } from 'copc';
import { describe, expect, test } from 'vitest';
import { buildOctree, cubeCodes, gatherPoints, integerBounds, octreeCube, type PointBatch } from '../../cloud/index.js';
import { bufferSink, bufferSource } from '../byte-source.js';
import { QUANTISATION, randomPoints } from '../las/las.fixture.js';
import { openLas } from '../las/index.js';
import { writeCopc, type CopcNode } from './copc-writer.js';

/** An octree over points, as the store builds it. */
function treeOf(points: PointBatch): { nodes: CopcNode[]; low: [number, number, number]; side: number } {
  const cube = octreeCube(integerBounds(points.x, points.y, points.z), QUANTISATION);
  const nodes = [
    ...buildOctree([cubeCodes(points.x, cube, 0), cubeCodes(points.y, cube, 1), cubeCodes(points.z, cube, 2)]),
  ].map(({ level, cell, order }) => ({ level, cell, points: gatherPoints(points, order) }));
  const low = cube.low.map((v, axis) => v * QUANTISATION.scale[axis]! + QUANTISATION.offset[axis]!);
  return { nodes, low: low as [number, number, number], side: cube.side };
}

async function copcFile(points: PointBatch, pointFormat: number, extraBytesLength = 0) {
  const { nodes, low, side } = treeOf(points);
  const sink = bufferSink();
  const count = await writeCopc(sink, nodes, {
    pointFormat,
    quantisation: QUANTISATION,
    extraBytesLength,
    cube: { low, side },
    spacing: side / 128,
    crs: { wkt: 'PROJCS["made up",UNIT["metre",1],AUTHORITY["EPSG","5347"]]' },
  });
  return { bytes: sink.bytes(), nodes, count, low, side };
}

const getter =
  (bytes: Uint8Array): Getter =>
  (begin, end) =>
    Promise.resolve(bytes.slice(begin, end));

describe('COPC (copc.io specification 1.0), read by the copc library', () => {
  test.each([
    [6, 0],
    [7, 0],
    [8, 0],
  ])('format %i with %i extra bytes: every cell holds just its points', async (pointFormat, extra) => {
    const points = randomPoints(pointFormat, 30_000, { extraBytesLength: extra });
    points.flags.forEach((flags, i) => (points.flags[i] = flags & 0xcf));
    const { bytes, nodes, count, low, side } = await copcFile(points, pointFormat, extra);
    expect(count).toBe(30_000);
    const copc = await Copc.create(getter(bytes));
    expect(copc.header.pointCount).toBe(30_000);
    expect(copc.wkt).toContain('made up');
    copc.info.cube.slice(0, 3).forEach((value, axis) => expect(value).toBeCloseTo(low[axis]!, 6));
    expect(copc.info.cube[3] - copc.info.cube[0]).toBeCloseTo(side, 6);
    const { nodes: hierarchy, pages } = await Copc.loadHierarchyPage(getter(bytes), copc.info.rootHierarchyPage);
    expect(Object.keys(pages)).toEqual([]);
    for (const { level, cell, points: own } of nodes) {
      const entry = hierarchy[`${level}-${cell.join('-')}`]!;
      expect(entry.pointCount).toBe(own.count);
      const view = await Copc.loadPointDataView(getter(bytes), copc, entry);
      const [x, z, classes] = ['X', 'Z', 'Classification'].map((name) => view.getter(name)) as [
        (i: number) => number,
        (i: number) => number,
        (i: number) => number,
      ];
      for (let i = 0; i < own.count; i += 7) {
        expect(x(i)).toBeCloseTo(own.x[i]! * 0.001 + 5_512_000, 6);
        expect(z(i)).toBeCloseTo(own.z[i]! * 0.01, 6);
        expect(classes(i)).toBe(own.classification[i]);
      }
      if (own.red) {
        const red = view.getter('Red');
        for (let i = 0; i < own.count; i += 7) expect(red(i)).toBe(own.red[i]);
      }
    }
    expect(copc.info.gpsTimeRange[0]).toBeGreaterThanOrEqual(0);
    expect(copc.info.gpsTimeRange[1]).toBeLessThanOrEqual(4e8);
  });

  test('our own reader takes it for the LAZ file that it is, chunk by chunk', async () => {
    const points = randomPoints(6, 5000);
    const { bytes } = await copcFile(points, 6);
    const las = await openLas(bufferSource('cloud.copc.laz', bytes));
    expect(las.warnings).toEqual([]);
    expect(las.pointCount).toBe(5000);
    expect(las.chunks!.reduce((sum, chunk) => sum + chunk.count, 0)).toBe(5000);
  });

  test('a cloud without a point is a valid file', async () => {
    const sink = bufferSink();
    await writeCopc(sink, [], {
      pointFormat: 6,
      quantisation: QUANTISATION,
      cube: { low: [0, 0, 0], side: 1 },
      spacing: 1,
    });
    const copc = await Copc.create(getter(sink.bytes()));
    expect(copc.header.pointCount).toBe(0);
  });

  test('colours of several scanner channels are refused, since decoders do not agree on them', async () => {
    await expect(copcFile(randomPoints(7, 500), 7)).rejects.toMatchObject({
      code: 'value-does-not-fit',
      fix: expect.stringContaining('LAZ') as string,
    });
  });
});
