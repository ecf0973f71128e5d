import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { buildOctree } from './octree.js';
import { cubeCodes, octreeCube, type OctreeCube } from './octree-cube.js';
import { integerBounds } from './bounds.js';
import { buildSquares, sortRecords } from './record-sort.js';

const quantisation = { scale: [0.001, 0.001, 0.01], offset: [0, 0, 0] } as const;

type Columns = [Int32Array, Int32Array, Int32Array];

function codesOf(columns: Columns): { codes: Columns; cube: OctreeCube } {
  const cube = octreeCube(integerBounds(...columns), quantisation);
  return { codes: columns.map((values, axis) => cubeCodes(values, cube, axis as 0 | 1 | 2)) as Columns, cube };
}

function flatCloud(count: number, seed: number): [Int32Array, Int32Array, Int32Array] {
  const random = seededRandom(seed);
  const column = (span: number): Int32Array => Int32Array.from({ length: count }, () => Math.floor(random() * span));
  return [column(400_000), column(300_000), column(500)];
}

describe('the octree', () => {
  test('holds each point exactly once', () => {
    const [x, y, z] = flatCloud(120_000, 1);
    const seen = new Uint8Array(120_000);
    for (const node of buildOctree(codesOf([x, y, z]).codes)) for (const i of node.order) seen[i]!++;
    expect(seen.every((times) => times === 1)).toBe(true);
  });

  test('the same holds for awkward clouds: coinciding points, one axis, one point', () => {
    const cloud = fc.array(fc.tuple(fc.integer({ min: -5, max: 5 }), fc.integer({ min: -3, max: 3 }), fc.constant(0)), {
      minLength: 1,
      maxLength: 400,
    });
    fc.assert(
      fc.property(cloud, (points) => {
        const columns = [0, 1, 2].map((axis) => Int32Array.from(points, (p) => p[axis]!)) as [
          Int32Array,
          Int32Array,
          Int32Array,
        ];
        const nodes = buildOctree(codesOf(columns).codes, { leafPoints: 20, mostPoints: 40 });
        const order = nodes.flatMap((node) => [...node.order]).sort((a, b) => a - b);
        expect(order).toEqual(points.map((_, i) => i));
        expect(Math.max(...nodes.map((node) => node.order.length))).toBeLessThanOrEqual(40);
      }),
      { seed: 1852, numRuns: 200 },
    );
  });

  test("a node's points lie in its own cube", () => {
    const [x, y, z] = flatCloud(90_000, 3);
    const { codes, cube: root } = codesOf([x, y, z]);
    const nodes = buildOctree(codes);
    const { side } = root;
    const origin = root.low.map((low, axis) => low * quantisation.scale[axis]!);
    for (const node of nodes) {
      const cube = side / 2 ** node.level;
      for (const i of node.order.subarray(0, 50)) {
        const at = [x[i]! * 0.001, y[i]! * 0.001, z[i]! * 0.01];
        for (let axis = 0; axis < 3; axis++) {
          const low = origin[axis]! + node.cell[axis]! * cube;
          expect(at[axis]).toBeGreaterThanOrEqual(low - cube * 1e-6);
          expect(at[axis]).toBeLessThanOrEqual(low + cube * (1 + 1e-6));
        }
      }
    }
  });

  test('the root is an even sample: no cell of its 128 x 128 plan is crowded or skipped', () => {
    const [x, y, z] = flatCloud(200_000, 4);
    const { codes, cube } = codesOf([x, y, z]);
    const nodes = buildOctree(codes);
    const spacing = nodes[0]!.spacing * cube.side;
    const cells = new Map<string, number>();
    for (const i of nodes[0]!.order) {
      const key = `${Math.floor((x[i]! * 0.001) / (4 * spacing))} ${Math.floor((y[i]! * 0.001) / (4 * spacing))}`;
      cells.set(key, (cells.get(key) ?? 0) + 1);
    }
    const inner = [...cells.values()].sort((a, b) => a - b).slice(Math.floor(cells.size * 0.1));
    expect(inner[0]).toBeGreaterThanOrEqual(6);
    expect(inner.at(-1)).toBeLessThanOrEqual(40);
  });

  test('the same cloud gives the same tree', () => {
    const cloud = flatCloud(50_000, 5);
    expect(buildOctree(codesOf(cloud).codes)).toEqual(buildOctree(codesOf(cloud).codes));
  });

  test('built square by square, the shares of the upper nodes put together are those of the whole', () => {
    const [x, y, z] = flatCloud(150_000, 6);
    const { codes, cube } = codesOf([x, y, z]);
    const whole = buildOctree(codes);
    const records = new Uint8Array(x.length * 16);
    const view = new DataView(records.buffer);
    for (let i = 0; i < x.length; i++)
      [x[i]!, y[i]!, z[i]!, i].forEach((word, k) => view.setInt32(i * 16 + k * 4, word, true));
    const sorted = sortRecords(records, 16, x.length, cube);
    const squares = buildSquares(sorted.counts, 40_000);
    expect(squares.length).toBeGreaterThan(3);
    const words = new Int32Array(sorted.records.buffer);
    const upper = new Map<string, number[]>();
    let points = 0;
    let from = 0;
    for (const square of squares) {
      const part = words.subarray(from * 4, (from + square.count) * 4);
      from += square.count;
      const column = (k: number): Int32Array => Int32Array.from({ length: square.count }, (_, i) => part[i * 4 + k]!);
      const nodes = buildOctree([0, 1, 2].map((axis) => cubeCodes(column(axis), cube, axis as 0 | 1 | 2)) as Columns, {
        sharedLevels: square.level,
      });
      for (const node of nodes) {
        points += node.order.length;
        if (node.level < square.level) {
          const key = `${node.level} ${node.cell.join(' ')}`;
          upper.set(key, [...(upper.get(key) ?? []), ...Array.from(node.order, (i) => part[i * 4 + 3]!)]);
        }
      }
    }
    expect(points).toBe(x.length);
    const root = upper.get('0 0 0 0')!.sort((a, b) => a - b);
    expect(root).toEqual([...whole[0]!.order]);
  });
});
