import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { triangulate } from './index.js';
import { Areas } from './terrain-lines.js';
import { waterLines } from './water-pieces.js';

const OPTIONS = { cell: 1, minimumArea: 20, reach: 6 };

/** A field of 60 x 60 units at 10 with a round pond of 15 units' radius at 8, an island in it, and what the pond sends back. */
function pond(returns: number): { water: Points; land: Points } {
  const random = seededRandom(5);
  const [water, land]: [number[][], number[][]] = [[], []];
  for (let i = 0; i < 16_000; i++) {
    const [e, n] = [5_512_000 + 60 * random(), 6_150_000 + 60 * random()];
    const from = Math.hypot(e - 5_512_030, n - 6_150_030);
    if (from > 15 || from < 4) land.push([e, n, 10]);
    else if (random() < returns) water.push([e, n, 8 + 0.04 * (random() - 0.5)]);
  }
  return { water: columns(water), land: columns(land) };
}
type Points = Parameters<typeof waterLines>[0];
const columns = (points: number[][]): Points => ({
  easting: Float64Array.from(points, ([e]) => e!),
  northing: Float64Array.from(points, ([, n]) => n!),
  elevation: Float64Array.from(points, ([, , z]) => z!),
});

describe('a pond with an island', () => {
  test.each([1, 0.3, 0.08])('is one piece of its size and level when %d of its pulses come back', (returns) => {
    const { water, land } = pond(returns);
    const pieces = waterLines(water, land, 'water', OPTIONS);
    expect(pieces).toHaveLength(1);
    const [piece] = pieces;
    // A ring of radii 4 and 15: 660 square units, and half a cell about both its edges.
    expect(piece!.area).toBeGreaterThan(600);
    expect(piece!.area).toBeLessThan(720);
    expect(piece!.level).toBeCloseTo(8, 2);
    expect(piece!.spread).toBeLessThan(0.05);
    expect(piece!.lines.filter(({ isIsland }) => isIsland)).toHaveLength(1);
    expect(piece!.lines.filter(({ isIsland }) => !isIsland)).toHaveLength(1);
  });

  test('its edge is nowhere further from the shore than a cell and a half', () => {
    const { water, land } = pond(0.3);
    const [piece] = waterLines(water, land, 'water', OPTIONS);
    for (const { easting, northing, isIsland } of piece!.lines)
      easting.forEach((e, k) => {
        const from = Math.hypot(e - 5_512_030, northing[k]! - 6_150_030);
        expect(Math.abs(from - (isIsland ? 4 : 15))).toBeLessThan(1.5);
      });
  });

  test('laid flat, the surface is level in the water and keeps the island and the field', () => {
    const { water, land } = pond(0.3);
    const lines = waterLines(water, land, 'water', OPTIONS).flatMap(({ lines: own }) => own);
    const { tin } = triangulate(land.easting, land.northing, land.elevation, { maximumEdge: 30 }, lines);
    const areas = new Areas(lines);
    let [inWater, onIsland] = [0, 0];
    for (let f = 0; f < tin.facets.length; f += 3) {
      const corners = [0, 1, 2].map((k) => tin.facets[f + k]!);
      const [e, n] = [tin.easting, tin.northing].map((v) => corners.reduce((sum, i) => sum + v[i]!, 0) / 3);
      const heights = corners.map((i) => tin.elevation[i]!);
      const from = Math.hypot(e! + tin.origin[0] - 5_512_030, n! + tin.origin[1] - 6_150_030);
      if (areas.isWater(e! + tin.origin[0], n! + tin.origin[1])) {
        inWater++;
        expect(Math.max(...heights) - Math.min(...heights)).toBe(0);
      } else if (from < 2) {
        onIsland++;
        expect(Math.min(...heights)).toBe(10);
      }
    }
    expect(inWater).toBeGreaterThan(10);
    expect(onIsland).toBeGreaterThan(10);
  });

  test('left out, the surface is open in the water and closed on the island', () => {
    const { water, land } = pond(0.3);
    const lines = waterLines(water, land, 'hole', OPTIONS).flatMap(({ lines: own }) => own);
    const areas = new Areas(lines);
    expect(areas.isCovered(5_512_040, 6_150_030)).toBe(false);
    expect(areas.isCovered(5_512_030, 6_150_030)).toBe(true);
    expect(areas.isCovered(5_512_005, 6_150_005)).toBe(true);
  });
});

test('two ponds are two pieces, each with a level of its own; a puddle is none', () => {
  const at = (e: number, n: number, size: number, z: number): number[][] =>
    Array.from({ length: size * size * 4 }, (_, i) => [
      e + (i % (2 * size)) / 2,
      n + Math.floor(i / (2 * size)) / 2,
      z,
    ]);
  const water = columns([...at(0, 0, 8, 3), ...at(40, 0, 6, 5), ...at(80, 80, 2, 9)]);
  const land = columns(
    Array.from({ length: 110 * 110 }, (_, i) => [i % 110, Math.floor(i / 110), 12]).filter(
      ([e, n]) =>
        !(e! < 9 && n! < 9) && !(e! >= 40 && e! < 47 && n! < 7) && !(e! >= 80 && e! < 83 && n! >= 80 && n! < 83),
    ),
  );
  const pieces = waterLines(water, land, 'water', { cell: 1, minimumArea: 25, reach: 4 });
  expect(pieces.map(({ level }) => level).sort()).toEqual([3, 5]);
});

test('where nothing came back beyond the last water, water does not reach to the end of the world', () => {
  const strip = columns(Array.from({ length: 400 }, (_, i) => [(i % 20) / 2, Math.floor(i / 20) / 2, 4]));
  const [piece] = waterLines(strip, columns([]), 'water', { cell: 1, minimumArea: 25, reach: 5 });
  expect(piece!.area).toBe(100);
});

test('no water is no piece', () => {
  expect(waterLines(columns([]), columns([[0, 0, 1]]), 'water', OPTIONS)).toEqual([]);
});
