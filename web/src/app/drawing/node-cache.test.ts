import { PreparedSelection } from '@pampero/core/selection';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { DrawnCloud } from './drawing-protocol';
import type { SceneNode } from './level-of-detail';
import { NodeCache } from './node-cache';

const ORIGIN = [5_512_000, 6_150_000, 30] as const;
const drawn: DrawnCloud = {
  id: 1,
  nodes: [],
  scale: [0.001, 0.001, 0.001],
  offset: [...ORIGIN],
  pointSpacing: 0.5,
  columns: ['intensity'],
};
const COUNT = 4;
const node = (id: number, revision = 1): SceneNode => ({
  id,
  level: 0,
  count: COUNT,
  spacing: 1,
  min: [0, 0, 0],
  max: [3000, 3000, 3000],
  revision,
  positions: 0,
  colours: 0,
  low: [0, 0, 0],
  high: [3, 3, 3],
});
const geometry = Int32Array.from([0, 1000, 2000, 3000, 0, 1000, 2000, 3000, 0, 500, 1000, 1500]).buffer;

/** What was asked for, and what is answered. */
let asked: string[];
let classes: number[];
let isDown: boolean;
let held: (() => void)[] | undefined;
const events = { arrived: vi.fn(), forgotten: vi.fn(), trouble: vi.fn() };
let cache: NodeCache;

beforeEach(() => {
  asked = [];
  classes = [1, 1, 2, 2];
  isDown = false;
  held = undefined;
  vi.clearAllMocks();
  vi.stubGlobal('fetch', async (url: string) => {
    asked.push(url);
    const marks = Uint8Array.from([...classes, 0, 0, 0, 4]).buffer;
    if (held) await new Promise<void>((resolve) => held!.push(resolve));
    if (isDown) throw new Error('no route');
    if (url.includes('/columns/')) return new Response(Uint16Array.from([10, 20, 30, 40]).buffer);
    return new Response(url.includes('/geometry') ? geometry : marks);
  });
  cache = new NodeCache(events);
  cache.setScene('job', ORIGIN, [node(1), node(2)]);
});
afterEach(() => vi.unstubAllGlobals());

describe('nodes in memory', () => {
  test('are fetched once, however often they are asked for, and lie about their centre', async () => {
    const [first, again] = await Promise.all([cache.load(drawn, node(1)), cache.load(drawn, node(1))]);
    expect(first).toBe(again);
    expect(await cache.load(drawn, node(1))).toBe(first);
    expect(asked).toHaveLength(2); // geometry and classes
    expect(Array.from(first!.points.x)).toEqual([-1.5, -0.5, 0.5, 1.5]);
    expect(Array.from(first!.points.z)).toEqual([-1.5, -1, -0.5, 0]);
    expect(Array.from(first!.classes)).toEqual([1, 1, 2, 2]);
    expect(first!.flags[3]).toBe(4);
  });

  test('classes that change are fetched again, without the geometry', async () => {
    const cached = (await cache.load(drawn, node(1)))!;
    asked.length = 0;
    classes = [2, 2, 2, 2];
    const edition = cache.marksEdition;
    cache.setScene('job', ORIGIN, [node(1, 2), node(2)]);
    await vi.waitFor(() => expect(Array.from(cached.classes)).toEqual([2, 2, 2, 2]), { timeout: 20_000 });
    expect(asked).toHaveLength(1);
    expect(asked[0]).not.toContain('geometry');
    expect(cache.marksEdition).toBeGreaterThan(edition);
    expect(cached.colouredAt).toBe(-1);
  });

  test('what arrives for a job that is no longer open is dropped', async () => {
    held = [];
    const loading = cache.load(drawn, node(1));
    cache.setScene('other', ORIGIN, [node(1)]);
    for (const release of held) release();
    expect(await loading).toBeUndefined();
    expect([...cache.all()]).toEqual([]);
  });

  test('a server that does not answer is told, and asked again the next time', async () => {
    isDown = true;
    expect(await cache.load(drawn, node(1))).toBeUndefined();
    expect(events.trouble).toHaveBeenCalledWith(expect.stringContaining('does not answer'));
    isDown = false;
    expect(await cache.load(drawn, node(1))).toBeDefined();
  });

  test('attributes are fetched when they are first needed; one that the cloud lacks is not asked for', async () => {
    const cached = (await cache.load(drawn, node(1)))!;
    asked.length = 0;
    await Promise.all([cache.fetchColumn(cached, 'intensity'), cache.fetchColumn(cached, 'intensity')]);
    expect(Array.from(new Uint16Array(cached.columns.get('intensity')!))).toEqual([10, 20, 30, 40]);
    await cache.fetchColumn(cached, 'gpsTime');
    expect(asked).toHaveLength(1);
    expect(new Float64Array(cached.columns.get('gpsTime')!)).toHaveLength(COUNT);
  });

  test('a selection is marked on what is there and on what comes later, once its attributes are', async () => {
    const visible = { hiddenClasses: [], withWithheld: true };
    const bright = { kind: 'range', attribute: 'intensity', from: 25 } as const;
    const first = (await cache.load(drawn, node(1)))!;
    cache.setSelected(new PreparedSelection([{ how: 'add', shape: bright, visible }]));
    await vi.waitFor(() => expect(first.selected).toEqual(Uint8Array.of(0, 0, 1, 1)), { timeout: 20_000 });
    const second = (await cache.load(drawn, node(2)))!;
    await vi.waitFor(() => expect(second.selected).toEqual(Uint8Array.of(0, 0, 1, 1)), { timeout: 20_000 });
    cache.setSelected(undefined);
    expect(first.selected).toBeUndefined();
  });

  test('no more than a few are fetched at once, and those no picture wants any more are not', async () => {
    held = [];
    const many = Array.from({ length: 40 }, (_, k) => node(100 + k));
    cache.beginPicture(1);
    for (const one of many) cache.want(drawn, one);
    cache.fetchNext();
    await vi.waitFor(() => expect(asked.length).toBeGreaterThan(0), { timeout: 20_000 });
    const begun = asked.length;
    expect(begun).toBeLessThan(40);
    cache.beginPicture(2); // looks elsewhere
    const release = held;
    held = undefined;
    for (const one of release) one();
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(asked).toHaveLength(begun);
  });

  test('what nobody has drawn for longest makes room; the rest stays', async () => {
    const big = (id: number): SceneNode => ({ ...node(id), count: 9_000_000 });
    vi.stubGlobal(
      'fetch',
      async (url: string) => new Response(new ArrayBuffer(url.includes('/geometry') ? 12 * 9_000_000 : 2 * 9_000_000)),
    );
    cache.beginPicture(1);
    const old = (await cache.load(drawn, big(1)))!;
    cache.beginPicture(20);
    const recent = (await cache.load(drawn, big(2)))!;
    cache.makeRoom();
    expect(cache.get(2)).toBe(recent);
    if (cache.get(1) === undefined) expect(events.forgotten).toHaveBeenCalledWith(old.slot);
  });
});
