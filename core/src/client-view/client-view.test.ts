import { describe, expect, test } from 'vitest';
import { HeightField, outlineArea, packExtras, packLand, unpackExtras, unpackLand, type ViewContent } from './index.js';

/** A plane z = 10 + 0.1 x + 0.05 y on cells of 2. */
const frame = { east: 500_000, north: 6_000_000, cell: 2, columns: 60, rows: 40 };
const plane = (x: number, y: number): number => 10 + 0.1 * x + 0.05 * y;
const heights = Float32Array.from({ length: 2400 }, (_, i) =>
  plane(((i % 60) + 0.5) * 2, (Math.floor(i / 60) + 0.5) * 2),
);
const land = new HeightField(frame, heights);

describe('land on a page without a server', () => {
  test('bilinear heights give a plane back everywhere between centres', () => {
    for (const [x, y] of [[10, 10], [33.3, 20.7], [118.9, 78.9]] as const) expect(land.at(x, y)).toBeCloseTo(plane(x, y), 4); // prettier-ignore
    expect(land.at(-5, 10)).toBeNaN();
    expect(land.at(10, 90)).toBeNaN();
  });

  test('a ray meets the plane where algebra says', () => {
    const [x, y, z] = land.hit([20, 20, 100], [0.3, 0.2, -1])!;
    // 100 - t = 10 + 0.1 (20 + 0.3 t) + 0.05 (20 + 0.2 t)
    const t = (100 - 10 - 2 - 1) / (1 + 0.03 + 0.01);
    expect(x).toBeCloseTo(20 + 0.3 * t, 3);
    expect(y).toBeCloseTo(20 + 0.2 * t, 3);
    expect(z).toBeCloseTo(100 - t, 3);
    expect(land.hit([20, 20, 100], [0, 0, 1])).toBeUndefined();
    expect(land.hit([-500, 20, 100], [-1, 0, -0.1])).toBeUndefined();
  });

  test('a profile of a plane is a straight line over its length', () => {
    const { distance, height } = land.profile([[10, 10], [40, 50], [100, 50]], 1); // prettier-ignore
    expect(distance.at(-1)).toBeCloseTo(50 + 60, 9);
    expect(height[0]).toBeCloseTo(plane(10, 10), 4);
    expect(height.at(-1)).toBeCloseTo(plane(100, 50), 4);
    expect(height.every((h, k) => k === 0 || h > height[k - 1]!)).toBe(true);
  });

  test('the earth of a prism over a level (area times mean height) and its plan area', () => {
    const outline = [[20, 20], [60, 20], [60, 60], [20, 60]] as const; // prettier-ignore
    expect(outlineArea(outline)).toBe(1600);
    const { above, below, area } = land.volume(outline, 10);
    expect(area).toBeCloseTo(1600, 6);
    expect(above).toBeCloseTo(1600 * (plane(40, 40) - 10), 1);
    expect(below).toBe(0);
    const halved = land.volume(outline, plane(40, 40));
    expect(halved.above).toBeCloseTo(halved.below, 1);
  });

  test('voids are neither land nor counted', () => {
    const holed = heights.slice();
    holed.fill(NaN, 0, 1200);
    const part = new HeightField(frame, holed);
    expect(part.at(30, 10)).toBeNaN();
    expect(part.hit([30, 10, 100], [0, 0, -1])).toBeUndefined();
    const { area } = part.volume([[0, 0], [120, 0], [120, 80], [0, 80]], 0); // prettier-ignore
    expect(area).toBeLessThan(120 * 40);
    expect(area).toBeGreaterThan(120 * 36);
  });
});

describe('the content in small', () => {
  const content: ViewContent = {
    frame,
    base: 0,
    heights: heights.map((h, i) => (i % 97 === 0 ? NaN : h)),
    lines: {
      starts: Uint32Array.of(0, 2, 5),
      kind: Uint8Array.of(0, 3),
      x: Float32Array.of(0, 120, 5, 6, 7.25),
      y: Float32Array.of(0, 80, 9, 9.5, 10),
      z: Float32Array.of(10, 20, 11, NaN, 12),
    },
    points: {
      x: Float32Array.of(1, 2),
      y: Float32Array.of(3, 79),
      z: Float32Array.of(9, 31),
      colour: Uint8Array.of(1, 2, 3, 4, 5, 6),
    },
  };
  const back = { ...unpackLand(packLand(content)), ...unpackExtras(packExtras(content, frame)) };

  test('comes back to half a step, voids as voids', () => {
    const step = 120 / 65_534;
    const near = (a: Float32Array, b: Float32Array, within: number): void =>
      a.forEach((value, i) =>
        Number.isNaN(value) ? expect(b[i]).toBeNaN() : expect(Math.abs(b[i]! - value)).toBeLessThanOrEqual(within),
      );
    near(content.heights, back.heights, 0.0002);
    near(content.lines.x, back.lines.x, step / 2 + 1e-5);
    near(content.lines.z, back.lines.z, 0.0002);
    near(content.points.z, back.points.z, 0.0002);
    expect([...back.points.colour]).toEqual([1, 2, 3, 4, 5, 6]);
    expect([...back.lines.kind]).toEqual([0, 3]);
    expect(back.frame).toEqual(frame);
  });

  test('of nothing is nothing', () => {
    const none = {
      starts: Uint32Array.of(0),
      kind: new Uint8Array(0),
      x: new Float32Array(0),
      y: new Float32Array(0),
      z: new Float32Array(0),
    };
    const empty = unpackExtras(packExtras({ lines: none, points: { ...none, colour: new Uint8Array(0) } }, frame));
    expect(empty.lines.x.length + empty.points.x.length).toBe(0);
  });
});
