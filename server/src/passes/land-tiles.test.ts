import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { CELL_METHODS, gridFromPoints } from '@pampero/core/grids';
import { onePointPerCell, thinEvenLand } from '@pampero/core/thinning';
import { seamsOf } from '@pampero/core/squares';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, valleyWithBridge, type TestServer } from '../server.fixture.js';
import { openReader, type JobFile } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import { chosenPoints } from '../tasks/chosen-points.js';
import { TaskPool } from '../tasks/task-pool.js';
import { landGrid } from './land-grid.js';
import { readClouds } from './read-clouds.js';
import { thinnedLand } from './thinned-land.js';

let host: TestServer;
let models: Models;
let close: () => Promise<void>;
const pool = new TaskPool(2);

/** Two clouds over each other, so that cells hold points of both. */
beforeAll(async () => {
  host = await testServer();
  const { id } = await host.api.newJob('Valley');
  await host.api.import(id, await lasBytes(valleyWithBridge().points));
  await host.api.import(id, await lasBytes(fieldWithShed()));
  const file = (await readdir(host.data)).find((name) => name.endsWith('.pampero'))!;
  ({ models, close } = await openReader(join(host.data, file)));
});
afterAll(async () => {
  await close();
  await pool.close();
  await host.stop();
});

/** Points as text, sorted: which are kept, whatever the order. */
const listed = ({ easting, northing, elevation }: ReturnType<typeof chosenPoints>, order?: Uint32Array): string[] =>
  Array.from(order ?? easting.keys(), (i) => `${easting[i]} ${northing[i]} ${elevation[i]}`).sort();
const whole = async () => chosenPoints((await readClouds(models, [1, 2])).clouds, new Uint8Array(256).fill(1));

const ALL = Array.from({ length: 256 }, (_, k) => k);
/** Tiles of a few hundred points, so that there are many. */
const wanted = { cloudIds: [1, 2], classes: ALL, square: undefined, tilePoints: 1500 };
const pass = () => ({ pool, job: { read: models } as unknown as JobFile, signal: new AbortController().signal });

describe('land thinned tile by tile', () => {
  test.each([
    ['one point a cell', 0.7, false],
    ['more where it breaks', 1, true],
    ['cells that no decimal fraction hits', 1 / 3, true],
  ])('keeps the points that thinning it whole keeps: %s', async (_, cell, keepBreaks) => {
    const points = await whole();
    const { easting, northing, elevation } = points;
    const kept = (keepBreaks ? thinEvenLand : onePointPerCell)(easting, northing, elevation, cell);
    const shares: number[] = [];
    const tiled = await thinnedLand(pass(), { ...wanted, cell, keepBreaks }, (share) => shares.push(share));
    expect(tiled.of).toBe(48_000 + 10_800);
    expect(listed(tiled.points)).toEqual(listed(points, kept));
    expect(shares.length).toBeGreaterThan(30);
    expect(shares.at(-1)).toBe(1);
  });

  test('near the edges of squares too', async () => {
    const points = await whole();
    const square = { land: { west: 0, south: 0, east: 20, north: 20 }, side: 20, margin: 8 };
    const kept = thinEvenLand(points.easting, points.northing, points.elevation, 0.5, { seams: seamsOf(square) });
    const tiled = await thinnedLand(pass(), { ...wanted, cell: 0.5, keepBreaks: true, square }, () => undefined);
    expect(listed(tiled.points)).toEqual(listed(points, kept));
  });

  test('of nothing is nothing', async () => {
    const none = await thinnedLand(pass(), { ...wanted, classes: [200], cell: 1, keepBreaks: true }, () => undefined);
    expect([none.points.easting.length, none.of]).toEqual([0, 0]);
  });
});

describe('a grid gathered tile by tile', () => {
  test.each([1, 0.35, 1 / 3])('has the cells that the whole has, of %s', async (cell) => {
    const { easting, northing, elevation } = await whole();
    const made = await landGrid(pass(), { ...wanted, cell, methods: CELL_METHODS }, () => undefined);
    const { frame, values } = made!;
    const inside = (place: number, first: number, count: number): boolean =>
      Math.floor(place / cell) - Math.round(first / cell) >= 0 && Math.floor(place / cell) - Math.round(first / cell) < count; // prettier-ignore
    expect(easting.every((e) => inside(e, frame.east, frame.columns))).toBe(true);
    expect(northing.every((n) => inside(n, frame.north, frame.rows))).toBe(true);
    CELL_METHODS.forEach((method, k) =>
      expect(values[k]).toEqual(gridFromPoints(easting, northing, elevation, frame, method)),
    );
    // Every point is counted once.
    expect(values[CELL_METHODS.indexOf('count')]!.reduce((sum, n) => sum + n, 0)).toBe(58_800);
  });

  test('of nothing is none, and one of far too many cells is refused', async () => {
    expect(await landGrid(pass(), { ...wanted, classes: [200], cell: 1, methods: ['mean'] }, () => undefined)).toBeUndefined(); // prettier-ignore
    await expect(landGrid(pass(), { ...wanted, cell: 0.001, methods: ['mean'] }, () => undefined)).rejects.toMatchObject({ code: 'grid-too-fine' }); // prettier-ignore
  });
});
