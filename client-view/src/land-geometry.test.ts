import { describe, expect, test } from 'vitest';
import { landGeometry } from './land-geometry.js';

const RAMP = ['#000000', '#808080', '#ffffff'];
function landOf(columns: number, rows: number, cell: number, height: (c: number, r: number) => number) {
  const heights = Float32Array.from({ length: columns * rows }, (_, k) => height(k % columns, Math.floor(k / columns)));
  return { frame: { east: 0, north: 0, columns, rows, cell }, base: 0, heights };
}
const partsOf = (geometry: ReturnType<typeof landGeometry>) => ({
  positions: [...geometry.getAttribute('position').array],
  colours: [...geometry.getAttribute('color').array],
  index: [...geometry.getIndex()!.array],
});
/** Area in plan of all triangles, and whether each looks up. */
function plan(geometry: ReturnType<typeof landGeometry>): { area: number; up: boolean } {
  const { positions, index } = partsOf(geometry);
  let [area, up] = [0, true];
  for (let k = 0; k < index.length; k += 3) {
    const [ax, ay, bx, by, cx, cy] = [0, 1, 2].flatMap((v) => [positions[3 * index[k + v]!]!, positions[3 * index[k + v]! + 1]!]) as [number, number, number, number, number, number]; // prettier-ignore
    const twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    area += twice / 2;
    up &&= twice > 0;
  }
  return { area, up };
}

describe('triangles over the cells of the land', () => {
  test('cover it from the middle of the first cell to that of the last, all looking up', () => {
    const geometry = landGeometry(landOf(20, 10, 2, () => 5), RAMP, [0, 10], 1e6); // prettier-ignore
    expect(plan(geometry)).toEqual({ area: 38 * 18, up: true });
    expect(partsOf(geometry).index).toHaveLength(3 * 2 * 19 * 9);
  });

  test('fewer are asked for: about as many, and the land stays as wide', () => {
    for (const most of [50, 200, 800]) {
      const geometry = landGeometry(landOf(101, 77, 1, (c) => c), RAMP, [0, 100], most); // prettier-ignore
      expect(geometry.getIndex()!.count / 3).toBeLessThan(1.6 * most);
      expect(plan(geometry).area).toBeCloseTo(100 * 76, 6);
    }
  });

  test('none lie over a void, and a cell with one corner void keeps half of itself', () => {
    const hole = landGeometry(landOf(3, 3, 1, (c, r) => (c === 1 && r === 1 ? NaN : 1)), RAMP, [0, 2], 1e6); // prettier-ignore
    // The void is a corner of all four squares: half of each is left.
    expect(plan(hole)).toEqual({ area: 2, up: true });
    expect(partsOf(hole).positions.some(Number.isNaN)).toBe(false);
    const empty = landGeometry(landOf(3, 3, 1, () => NaN), RAMP, [0, 2], 1e6); // prettier-ignore
    expect(empty.getIndex()!.count).toBe(0);
  });

  test('colours go from the lowest to the highest of the ramp, and a level land has one', () => {
    const { colours } = partsOf(landGeometry(landOf(3, 2, 1, (c) => 10 * c), RAMP, [0, 20], 1e6)); // prettier-ignore
    expect([colours[0], colours[6]]).toEqual([0, 1]);
    expect(colours[3]!).toBeGreaterThan(0.1);
    expect(colours[3]!).toBeLessThan(0.6);
    const level = partsOf(landGeometry(landOf(2, 2, 1, () => 7), RAMP, [7, 7], 1e6)).colours; // prettier-ignore
    expect(new Set(level).size).toBe(1);
  });
});
