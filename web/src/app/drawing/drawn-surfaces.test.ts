import { packArrays } from '@pampero/core/binary';
import { rampTable } from '@pampero/core/tints';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { DrawnSurface } from './drawing-protocol';
import { DrawnSurfaces } from './drawn-surfaces';

const place = { east: 0, north: 0, cell: 10, columns: 3, rows: 3 };
const raster = (...heights: number[]) => packArrays({ elevation: Float32Array.from(heights) }, place);
/** A plane that rises to the east. */
const plane = (level: number) => raster(...[0, 1, 2].flatMap(() => [level, level + 1, level + 2]));
const named = (productId: number, more: Partial<DrawnSurface> = {}): DrawnSurface => ({
  url: `/s/${productId}`,
  productId,
  tint: { table: rampTable('land'), low: 0, high: 10, by: 'elevation' },
  opacity: 1,
  ...more,
});

let files: Record<string, Uint8Array<ArrayBuffer> | undefined>;
let asked: string[];
let changes: boolean[];
let surfaces: DrawnSurfaces;
beforeEach(() => {
  files = { '/s/1': plane(10), '/s/2': plane(20), '/g/3': raster(...Array(9).fill(5)) };
  asked = [];
  changes = [];
  vi.stubGlobal('fetch', (url: string) => {
    asked.push(url);
    // Of a surface that has nothing to do with the one before, the server sends the whole.
    const bytes = files[url] ?? files[url.split('?')[0]!];
    return bytes ? Promise.resolve(new Response(bytes)) : Promise.resolve(new Response('', { status: 404 }));
  });
  surfaces = new DrawnSurfaces(
    () => [0, 0, 0],
    (isOther) => changes.push(isOther),
  );
});
afterEach(() => vi.unstubAllGlobals());
const highest = (): Promise<number | undefined> => surfaces.measured((grid) => Math.max(...grid.elevation));
const PLAN = Float64Array.of(0.1, 0, 0, 0, 0, 0.1, 0, 0, 0, 0, 0.01, 0, -1, -1, 0, 1);

describe('surfaces that are drawn', () => {
  test('are fetched once, and measured on as soon as they are told of', async () => {
    surfaces.set([named(1)]);
    expect(await highest()).toBe(12);
    surfaces.set([named(1, { opacity: 0.5 })]);
    expect(await highest()).toBe(12);
    expect(asked).toEqual(['/s/1']);
    expect(surfaces.of('plan', PLAN).map(({ opacity }) => opacity)).toEqual([0.5]);
  });

  test('who asks right after another was told gets the other', async () => {
    surfaces.set([named(1)]);
    surfaces.set([named(2)]);
    expect(await highest()).toBe(22);
  });

  test('heights are others when another surface is drawn, and the same when its colours change', async () => {
    surfaces.set([named(1)]);
    await highest();
    surfaces.set([named(1, { tint: { ...named(1).tint, high: 99 } })]);
    await highest();
    surfaces.set([named(2)]);
    await highest();
    expect(changes).toEqual([true, false, true]);
  });

  test('a grid of values is drawn level, and heights are not measured from it', async () => {
    surfaces.set([named(1), named(3, { url: '/g/3', isFlat: true })]);
    expect(await highest()).toBe(12);
    expect(surfaces.of('model', PLAN)).toHaveLength(2);
    surfaces.set([named(3, { url: '/g/3', isFlat: true })]);
    expect(await highest()).toBeUndefined();
  });

  test('one that cannot be read is left out; the others are drawn', async () => {
    surfaces.set([named(9), named(1)]);
    expect(await highest()).toBe(12);
    expect(surfaces.of('plan', PLAN)).toHaveLength(1);
  });

  test('of one that was edited only what differs is asked for', async () => {
    surfaces.set([named(1)]);
    await highest();
    files['/s/4?since=1'] = packArrays({ elevation: Float32Array.of(77) }, { ...place, part: { column: 1, row: 1, columns: 1, rows: 1 } }); // prettier-ignore
    surfaces.set([named(4)]);
    expect(await highest()).toBe(77);
    expect(asked.at(-1)).toBe('/s/4?since=1');
    // And what is not drawn any more is forgotten: it would be asked for whole.
    surfaces.set([]);
    await highest();
    surfaces.set([named(1)]);
    await highest();
    expect(asked.at(-1)).toBe('/s/1');
  });

  test('close up in Plan the finer piece is drawn, where it covers the view; elsewhere the whole', async () => {
    surfaces.set([named(1)]);
    await highest();
    await surfaces.setDetail(named(2));
    const shown = (view: string, matrix: Float64Array): number =>
      Math.max(...surfaces.of(view, matrix)[0]!.grid.elevation);
    expect(shown('plan', PLAN)).toBe(22);
    expect(shown('model', PLAN)).toBe(12);
    const wide = Float64Array.of(0.001, 0, 0, 0, 0, 0.001, 0, 0, 0, 0, 0.01, 0, 0, 0, 0, 1);
    expect(shown('plan', wide)).toBe(12);
    await surfaces.setDetail(undefined);
    expect(shown('plan', PLAN)).toBe(12);
  });

  test('contours in the window, as many as levels are crossed; none before a surface has come', async () => {
    const window = { west: 0, south: 0, east: 30, north: 30 };
    const ask = { interval: 0.5, base: 0.25, indexEvery: 2, window } as never;
    expect(await surfaces.contours(ask)).toBeUndefined();
    surfaces.set([named(1)]);
    await highest();
    // From 10 to 12: 10.25, 10.75, 11.25, 11.75.
    expect((await surfaces.contours(ask))!.lines).toBe(4);
  });
});
