import { PointFlag } from '@pampero/core/cloud';
import { beforeEach, describe, expect, test } from 'vitest';
import { CleaningPreview } from './cleaning-preview';
import type { DrawnCloud } from './drawing-protocol';
import type { PreviewRequest } from './viewer-questions';
import type { SceneNode } from './level-of-detail';
import type { NodeCache } from './node-cache';
import { decodeNode, sceneNode, type CachedNode } from './point-cache';

const ORIGIN = [1000, 2000, 100] as const;
const drawn: DrawnCloud = {
  id: 1,
  nodes: [],
  scale: [0.01, 0.01, 0.01],
  offset: [...ORIGIN],
  pointSpacing: 1,
  columns: [],
};

interface Place {
  readonly at: readonly [number, number, number];
  readonly code?: number;
  readonly flags?: number;
}

/** Nodes that are all in memory, of places in metres from the origin. */
function memory(...nodes: readonly (readonly Place[])[]): {
  cache: NodeCache;
  scene: SceneNode[];
  cached: CachedNode[];
  loads: number[];
} {
  const loads: number[] = [];
  const cached = nodes.map((places, k) => {
    const axis = (of: 0 | 1 | 2): number[] => places.map(({ at }) => Math.round(at[of] * 100));
    const ends = (pick: (...values: number[]) => number): number[] => [0, 1, 2].map((of) => pick(...axis(of as 0)));
    const node = sceneNode(
      {
        id: k + 1,
        level: 0,
        count: places.length,
        spacing: 1,
        min: ends(Math.min),
        max: ends(Math.max),
        revision: 0,
      } as never,
      drawn,
      ORIGIN,
    );
    const geometry = Int32Array.from([...axis(0), ...axis(1), ...axis(2)]);
    const marks = Uint8Array.from([...places.map(({ code = 1 }) => code), ...places.map(({ flags = 0 }) => flags)]);
    return decodeNode(k + 1, drawn, node, ORIGIN, geometry.buffer, marks.buffer);
  });
  const cache = {
    marksEdition: 0,
    load: (_cloud: DrawnCloud, { id }: SceneNode) => {
      loads.push(id);
      return Promise.resolve(cached[id - 1]);
    },
    fetchColumn: (of: CachedNode) => {
      of.columns.set('confidence', Float32Array.from({ length: of.node.count }, (_, i) => i / 10).buffer);
      return Promise.resolve();
    },
  };
  return { cache: cache as unknown as NodeCache, scene: cached.map(({ node }) => node), cached, loads };
}

const line = (count: number, northing = 0, height = 0): Place[] =>
  Array.from({ length: count }, (_, k) => ({ at: [k, northing, height] }));
const region = { a: [1000, 2000], b: [1010, 2000], half: 1 } as const;
const isolated = { kind: 'isolated', radius: 1.5, leastNeighbours: 1 } as never;

let held: ReturnType<typeof memory>;
let preview: CleaningPreview;
const run = (more: Partial<PreviewRequest> = {}): ReturnType<CleaningPreview['run']> =>
  preview.run({ cloudId: 1, filter: isolated, region, leftOut: [], ...more }, [{ cloud: drawn, nodes: held.scene }]);
const hold = (...nodes: readonly (readonly Place[])[]): void => {
  held = memory(...nodes);
  preview = new CleaningPreview(held.cache, () => ORIGIN);
};
beforeEach(() => hold([...line(11), { at: [5, 0, 30] }]));

describe('a search that is tried on a piece of land', () => {
  test('finds what the operation would, marks it, and says where', async () => {
    const answer = await run();
    expect(answer).toMatchObject({ found: 1, judged: 12, isTooMany: false, places: [[1005, 2000, 130]] });
    expect([...held.cached[0]!.found!]).toEqual([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]);
    preview.clear();
    expect(held.cached[0]!.found).toBeUndefined();
  });

  test('judges the corridor alone, and knows what lies about it', async () => {
    // A neighbour just outside the corridor keeps the one at its edge company; it is not judged itself.
    hold([...line(8), { at: [10, 0, 0] }, { at: [11, 0, 0] }]);
    expect(await run()).toMatchObject({ judged: 9, found: 0 });
    hold([...line(8), { at: [10, 0, 0] }]);
    expect(await run()).toMatchObject({ judged: 9, found: 1 });
    hold(line(8), line(8, 40));
    await run();
    expect(held.loads).toEqual([1]);
  });

  test('leaves out classes that take no part, and what is withheld', async () => {
    hold([...line(11), { at: [5, 0, 30], code: 7 }, { at: [6, 0, 40], flags: PointFlag.withheld }]);
    expect(await run({ leftOut: [7] })).toMatchObject({ judged: 11, found: 0 });
    expect(await run()).toMatchObject({ judged: 12, found: 1 });
  });

  test('gathers its points once for a moved parameter, anew when classes change', async () => {
    await run();
    const first = held.cached[0]!.points.x[0]!;
    held.cached[0]!.points.x[0] = 500; // would fall out of the corridor
    expect((await run({ filter: { ...(isolated as object), leastNeighbours: 2 } as never }))!.judged).toBe(12);
    held.cache.marksEdition++;
    expect((await run())!.judged).toBe(11);
    held.cached[0]!.points.x[0] = first;
  });

  test('between two heights all points count, in full elevations', async () => {
    expect(await run({ filter: { kind: 'height-band', from: 120 } })).toMatchObject({ found: 1 });
    expect(await run({ filter: { kind: 'height-band', to: 110 } })).toMatchObject({ found: 11 });
    expect(await run({ filter: { kind: 'height-band', from: 140 } })).toMatchObject({ found: 0 });
  });

  test('by confidence fetches the column first', async () => {
    hold(line(6));
    const answer = await run({ filter: { kind: 'unreliable', radius: 1, minimumConfidence: 0.25 } as never });
    expect(answer!.judged).toBe(6);
    expect(held.cached[0]!.columns.has('confidence')).toBe(true);
  });

  test('says so where there are more points than it can try at once, or no such cloud', async () => {
    const many = [{ ...held.scene[0]!, count: 7_000_000 }];
    expect(
      await preview.run({ cloudId: 1, filter: isolated, region, leftOut: [] }, [{ cloud: drawn, nodes: many }]),
    ).toMatchObject({ isTooMany: true, found: 0 });
    expect(await run({ cloudId: 9 })).toBeUndefined();
  });

  test('an empty piece of land is searched in vain', async () => {
    expect(await run({ region: { a: [1500, 2500], b: [1510, 2500], half: 1 } })).toMatchObject({ judged: 0, found: 0 });
    expect(await run({ region: { a: [1005, 2000], b: [1005, 2000], half: 1 } })).toMatchObject({ isTooMany: false });
  });
});
