import { describe, expect, test } from 'vitest';
import { isInView } from './level-of-detail';
import { fewSegments, LineLayer } from './line-layer';

/** Scene units are pixels: x to the right, y up, z from -1 (near) to 1 (far). */
const [W, H] = [40, 20];
const PIXELS = Float64Array.of(2 / W, 0, 0, 0, 0, 2 / H, 0, 0, 0, 0, 1, 0, -1, -1, 0, 1);
const blank = () => ({ rgba: new Uint8ClampedArray(W * H * 4), depth: new Float32Array(W * H).fill(2) });
const layer = (positions: Float32Array) =>
  new LineLayer({ positions, paint: { rgb: [200, 100, 50], opacity: 1, isDepthTested: false }, views: ['plan'] });
const lit = (rgba: Uint8ClampedArray): number => rgba.filter((value, k) => k % 4 === 3 && value > 0).length;

/** A staircase of short legs, so many, from a place on. */
function stairs(count: number, x = 0, y = 0, step = 1): number[] {
  return Array.from({ length: count }, (_, k) => [x + k * step, y, 0, x + (k + 1) * step, y + ((k + 1) % 2) * 0.1, 0])
    .map((leg, k) => (k % 2 === 0 ? leg : [leg[0]!, y + 0.1, 0, leg[3]!, y, 0]))
    .flat();
}

describe('what lies outside the view', () => {
  const seen = (x: number, y: number, size = 1): boolean => isInView(PIXELS, [x, y, 0], [x + size, y + size, 0], true);

  test.each([
    ['within', 5, 5, true],
    ['over the edge', -0.5, 5, true],
    ['left', -5, 5, false],
    ['right', W + 1, 5, false],
    ['below', 5, -5, false],
    ['above', 5, H + 1, false],
  ])('a box %s', (_, x, y, isSeen) => {
    expect(seen(x, y)).toBe(isSeen);
  });

  test('a box that holds the whole view is seen, though none of its corners is', () => {
    expect(seen(-1000, -1000, 3000)).toBe(true);
  });

  test('a box behind the eye is not, one about the eye is', () => {
    // Looks along -z: w = -z.
    const eye = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -1, -1, 0, 0, -0.2, 0);
    expect(isInView(eye, [-1, -1, 1], [1, 1, 2], true)).toBe(false);
    expect(isInView(eye, [-1, -1, -2], [1, 1, 2], true)).toBe(true);
    expect(isInView(eye, [-1, -1, -3], [1, 1, -2], true)).toBe(true);
  });

  test('is passed over, and what is in view is drawn as if nothing else were there', () => {
    const seen = stairs(30, 2, 8);
    // Many pieces of 512 segments, all but the last of them far away.
    const both = Float32Array.from([...stairs(512 * 9, 5000, 5000), ...seen]);
    const [alone, among] = [blank(), blank()];
    layer(Float32Array.from(seen)).draw(alone.rgba, { width: W, height: H, depth: alone.depth }, PIXELS, false);
    layer(both).draw(among.rgba, { width: W, height: H, depth: among.depth }, PIXELS, false);
    expect(lit(alone.rgba)).toBeGreaterThan(25);
    expect([...among.rgba]).toEqual([...alone.rgba]);
  });
});

describe('fewer segments while the view moves', () => {
  test('few stay as they are; many come under the limit and keep their ends', () => {
    const few = Float32Array.from(stairs(10));
    expect(fewSegments(few, 10)).toBe(few);
    const many = fewSegments(Float32Array.from(stairs(1000)), 100);
    expect(many.length / 6).toBeLessThanOrEqual(100);
    expect(many.length / 6).toBeGreaterThan(30);
    expect([...many.slice(0, 2)]).toEqual([0, 0]);
    expect(many.at(-3)).toBe(1000);
    // One way without a gap.
    for (let k = 6; k < many.length; k += 6) expect(many[k]).toBe(many[k - 3]);
  });

  test('more lines than the limit: a segment each', () => {
    const lines = Array.from({ length: 50 }, (_, k) => stairs(4, 0, 10 * k)).flat();
    expect(fewSegments(Float32Array.from(lines), 20).length / 6).toBe(50);
  });

  test('a moving picture of very many lights nearly the pixels that the still one does', () => {
    const positions = Float32Array.from(
      Array.from({ length: 20 }, (_, row) => stairs(5000, 0, row + 0.5, W / 5000)).flat(),
    );
    const drawn = layer(positions);
    const [still, moving] = [blank(), blank()];
    drawn.draw(still.rgba, { width: W, height: H, depth: still.depth }, PIXELS, false);
    drawn.draw(moving.rgba, { width: W, height: H, depth: moving.depth }, PIXELS, true);
    expect(lit(still.rgba)).toBe(W * H);
    expect(lit(moving.rgba)).toBeGreaterThan(0.95 * W * H);
  });
});
