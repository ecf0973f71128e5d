import { describe, expect, test } from 'vitest';
import { drawLines, onGround } from './line-rasteriser';

/** Scene units are pixels: x to the right, y up, z from -1 (near) to 1 (far). */
const W = 20;
const H = 10;
const PIXELS = Float64Array.of(2 / W, 0, 0, 0, 0, 2 / H, 0, 0, 0, 0, 1, 0, -1, -1, 0, 1);
const blank = () => ({ rgba: new Uint8ClampedArray(W * H * 4), depth: new Float32Array(W * H).fill(2) });
const paint = { rgb: [200, 100, 50], opacity: 1, isDepthTested: true } as const;
const alphaAt = (rgba: Uint8ClampedArray, column: number, row: number): number => rgba[(row * W + column) * 4 + 3]!;

describe('lines in the picture', () => {
  test('a level line through the middles of pixels colours just those', () => {
    const { rgba, depth } = blank();
    drawLines(rgba, { width: W, height: H, depth }, PIXELS, Float32Array.of(2.25, 4.5, 0, 9.75, 4.5, 0), paint);
    for (let column = 0; column < W; column++)
      expect([column, alphaAt(rgba, column, 4) > 250]).toEqual([column, column >= 2 && column <= 9]);
    expect([...rgba.slice((4 * W + 5) * 4, (4 * W + 5) * 4 + 3)]).toEqual([200, 100, 50]);
  });

  test('a slanted line weighs the two pixels it passes between; together they are one', () => {
    const { rgba, depth } = blank();
    drawLines(rgba, { width: W, height: H, depth }, PIXELS, Float32Array.of(0, 1, 0, 20, 8, 0), paint);
    for (let column = 1; column < W - 1; column++) {
      let sum = 0;
      for (let row = 0; row < H; row++) sum += alphaAt(rgba, column, row) / 255;
      expect(sum).toBeGreaterThan(0.97);
      expect(sum).toBeLessThan(1.03);
    }
  });

  test('it goes behind what is nearer, unless depth is of no account', () => {
    const near = new Float32Array(W * H).fill(-0.5);
    for (const isDepthTested of [true, false]) {
      const { rgba } = blank();
      drawLines(rgba, { width: W, height: H, depth: near }, PIXELS, Float32Array.of(0, 4.5, 0.2, 19, 4.5, 0.2), {
        ...paint,
        isDepthTested,
      });
      expect(alphaAt(rgba, 10, 4)).toBe(isDepthTested ? 0 : 255);
    }
  });

  test('segments beyond the rim are cut there, whatever their length', () => {
    const { rgba, depth } = blank();
    drawLines(
      rgba,
      { width: W, height: H, depth },
      PIXELS,
      Float32Array.of(-1e6, 4.5, 0, 1e6, 4.5, 0, 5, -1e6, 0, 5.5, 1e6, 0),
      paint,
    );
    expect(alphaAt(rgba, 0, 4) + alphaAt(rgba, 19, 4)).toBe(510);
  });

  test('the ground shows where nothing is, shines through by half where the picture is half there, and the rows are turned', () => {
    const rgba = new Uint8ClampedArray([10, 20, 30, 255, 100, 100, 100, 128, 0, 0, 0, 0, 0, 0, 0, 0]);
    const out = onGround(rgba, 2, 2, [200, 200, 200]);
    expect([...out.slice(0, 4)]).toEqual([200, 200, 200, 255]);
    expect([...out.slice(8, 12)]).toEqual([10, 20, 30, 255]);
    expect(out[12]).toBeGreaterThan(148);
    expect(out[12]).toBeLessThan(152);
  });
});
