import { shapeOf } from '../lines/index.js';
import { triangulate, type Tin } from '../terrain/index.js';
import { describe, expect, test } from 'vitest';
import { areasBetween, crossSections, endAreaVolume, heightAt } from './index.js';

/** A surface over a square of 100 by 100, exact at its corners and on a raster of ten. */
function surface(z: (e: number, n: number) => number): Tin {
  const places = Array.from({ length: 121 }, (_, k) => [(k % 11) * 10, Math.floor(k / 11) * 10] as const);
  const of = (pick: (place: readonly [number, number]) => number): Float64Array => Float64Array.from(places, pick);
  return triangulate(of(([e]) => e), of(([, n]) => n), of(([e, n]) => z(e, n))).tin; // prettier-ignore
}
const line = (places: readonly (readonly [number, number])[]) =>
  shapeOf(places.map(([e, n]) => ({ e, n, z: NaN, source: 0 })), false); // prettier-ignore

describe('cross sections', () => {
  const east = line([[10, 50], [90, 50]]); // prettier-ignore

  test('at every step and at the end, square to the line, offsets negative to the left', () => {
    const sections = crossSections(east, [surface((_, n) => n)], { step: 30, left: 20, right: 10 });
    expect(sections.map(({ station }) => station)).toEqual([0, 30, 60, 80]);
    const [first] = sections;
    expect([first!.easting, first!.northing, first!.bearing]).toEqual([10, 50, 90]);
    // Going east, the left is north: 20 to the left lies at 70 north.
    expect(heightAt(first!.profiles[0]!, -20)).toBeCloseTo(70, 9);
    expect(heightAt(first!.profiles[0]!, 10)).toBeCloseTo(40, 9);
    expect(heightAt(first!.profiles[0]!, 11)).toBeNaN();
  });

  test('a trapezoid: 10 wide at the bottom, sides 1 in 2, 3 deep is 10·3 + 2·3·6/2 = 48', () => {
    const cut = { offset: Float64Array.of(-11, -5, 5, 11), elevation: Float64Array.of(3, 0, 0, 3) };
    const ground = { offset: Float64Array.of(-20, 20), elevation: Float64Array.of(3, 3) };
    expect(areasBetween(ground, cut)).toMatchObject({ cut: expect.closeTo(48, 5) as number, fill: 0 });
    expect(areasBetween(cut, ground)).toMatchObject({ cut: 0, fill: expect.closeTo(48, 5) as number });
  });

  test('where the two cross, cut and fill are told apart', () => {
    const rising = { offset: Float64Array.of(-10, 10), elevation: Float64Array.of(-5, 5) };
    const level = { offset: Float64Array.of(-10, 10), elevation: Float64Array.of(0, 0) };
    const { cut, fill } = areasBetween(rising, level);
    expect(cut).toBeCloseTo(25, 5);
    expect(fill).toBeCloseTo(25, 5);
  });

  test('nothing is reckoned where one of the surfaces is not', () => {
    const short = { offset: Float64Array.of(0, 4), elevation: Float64Array.of(1, 1) };
    const long = { offset: Float64Array.of(-10, 10), elevation: Float64Array.of(0, 0) };
    expect(areasBetween(short, long)).toMatchObject({ cut: expect.closeTo(4, 5) as number, width: expect.closeTo(4, 5) as number }); // prettier-ignore
  });
});

describe('volumes from end areas', () => {
  test('of a prism they are exact', () => {
    expect(endAreaVolume([0, 10, 25], [6, 6, 6])).toBe(150);
  });

  test('of a pyramid they are too large by half, as the prismoidal formula shows: L (A1 + 4 Am + A2) / 6', () => {
    // Base of 12 square at station 0, nothing at 30: in the middle a quarter.
    const prismoidal = (30 * (12 + 4 * 3 + 0)) / 6;
    expect(prismoidal).toBe(120);
    expect(endAreaVolume([0, 30], [12, 0])).toBe(180);
    // Nearer sections come nearer: each halving of the step takes three quarters of the error.
    const area = (s: number): number => 12 * (1 - s / 30) ** 2;
    const at = (step: number): number => {
      const stations = Array.from({ length: 30 / step + 1 }, (_, k) => k * step);
      return endAreaVolume(stations, stations.map(area)) - 120;
    };
    expect(at(7.5) / at(15)).toBeCloseTo(0.25, 9);
  });

  test('between a plane and one that dips along the line: cut area times length', () => {
    const east = line([[10, 50], [90, 50]]); // prettier-ignore
    const sections = crossSections(east, [surface(() => 2), surface(() => 0)], { step: 10, left: 5, right: 5 });
    const areas = sections.map(({ profiles }) => areasBetween(profiles[0]!, profiles[1]!).cut);
    expect(endAreaVolume(sections.map(({ station }) => station), areas)).toBeCloseTo(2 * 10 * 80, 3); // prettier-ignore
  });
});
