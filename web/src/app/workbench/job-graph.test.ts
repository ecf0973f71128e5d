import type { Product } from '@pampero/contract';
import { describe, expect, test } from 'vitest';
import { jobGraph } from './job-graph';

const product = (id: number, kind: string, inputs: Product['inputs'], isStale = false): Product =>
  ({ id, seriesId: id, kind, name: `${kind} ${id}`, inputs, isStale, facts: {} }) as unknown as Product;
const clouds = [{ id: 1, name: 'Lidar' }];
const surface = product(2, 'surface', [{ kind: 'cloud', id: 1, revision: 'classes 4' }], true);
const contours = product(3, 'contours', [{ kind: 'product', id: 2, revision: '2' }], true);
const accuracy = product(4, 'accuracy', [
  { kind: 'product', id: 2, revision: '2' },
  { kind: 'control', id: 0, revision: 'a' },
]);
const entries = [
  { id: 7, state: 'done' as const, made: [{ kind: 'product' as const, id: 2 }] },
  { id: 8, state: 'undone' as const, made: [{ kind: 'product' as const, id: 3 }] },
];

describe('what hangs on what, drawn', () => {
  const graph = jobGraph(clouds, [surface, contours, accuracy], entries, true);
  const at = (key: string) => graph.nodes.find((node) => node.key === key)!;

  test('lies from left to right, each to the right of what it was made from', () => {
    expect(graph.nodes.map(({ key }) => key).sort()).toEqual([
      'cloud 1',
      'control 0',
      'product 2',
      'product 3',
      'product 4',
    ]);
    expect(at('product 2').x).toBeGreaterThan(at('cloud 1').x);
    expect(at('product 3').x).toBeGreaterThan(at('product 2').x);
    expect(at('product 4').x).toBeGreaterThan(at('control 0').x);
    expect(graph.edges).toHaveLength(4);
    for (const { path } of graph.edges) expect(path).toMatch(/^M[\d.]+ [\d.]+L/);
  });

  test('knows the step that made each, while it stands, and what is stale', () => {
    expect(at('product 2').entryId).toBe(7);
    expect(at('product 3').entryId).toBeUndefined();
    expect(at('product 3').isStale).toBe(true);
    expect(at('product 4').isStale).toBe(false);
  });

  test('a product that was built again hangs where the first did', () => {
    const again = { ...product(9, 'surface', surface.inputs), seriesId: 2 } as Product;
    const edges = jobGraph(clouds, [again, contours], entries, false).edges.map(({ key }) => key);
    expect(edges).toContain('product 9 product 3');
  });

  test('no boxes overlap, and of nothing there is nothing', () => {
    for (const a of graph.nodes)
      for (const b of graph.nodes)
        if (a !== b) expect(Math.abs(a.x - b.x) >= 150 || Math.abs(a.y - b.y) >= 40, `${a.key} ${b.key}`).toBe(true);
    expect(jobGraph([], [], [], false).nodes).toEqual([]);
  });
});
