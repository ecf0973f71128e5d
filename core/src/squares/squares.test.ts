import { describe, expect, test } from 'vitest';
import { shapeOf, type LineShape } from '../lines/index.js';
import { seededRandom } from '../task/seeded-random.js';
import { cutTin, triangulate, type Tin } from '../terrain/index.js';
import { thinEvenLand } from '../thinning/index.js';
import {
  edgeProfile,
  landOf,
  layOutSquares,
  lineInSquare,
  ownsPlace,
  profilesDiffer,
  seamReach,
  seamsOf,
  squaresTouched,
  withMargin,
} from './index.js';

const layout = { side: 100, margin: 25 };

describe('squares of a site', () => {
  test('lie on whole multiples of their side, whichever file comes first, and are named by their corner', () => {
    const [one, other] = [
      { west: 5_512_030, south: 6_150_010, east: 5_512_090, north: 6_150_120 },
      { west: 5_512_095, south: 6_150_020, east: 5_512_130, north: 6_150_080 },
    ];
    const squares = layOutSquares(layout, [one, other]);
    expect(squares.map(({ name }) => name)).toEqual(['5512000_6150000', '5512100_6150000', '5512000_6150100']);
    expect(layOutSquares(layout, [other, one])).toEqual(squares);
    expect(squares[0]!.land).toEqual({ west: 5_512_000, south: 6_150_000, east: 5_512_100, north: 6_150_100 });
  });

  test('a side mistyped a thousand times too short is refused', () => {
    const land = { west: 0, south: 0, east: 40_000, north: 40_000 };
    expect(() => layOutSquares({ side: 0.1, margin: 0 }, [land])).toThrow(/squares/);
    expect(() => layOutSquares({ side: 0, margin: 0 }, [land])).toThrow(/endlessly many/);
  });

  test('every place belongs to one square and is taken along by all whose margin it lies in', () => {
    const random = seededRandom(8);
    for (let k = 0; k < 2000; k++) {
      // Every fourth on a line between squares.
      const at = (): number => -300 + (k % 4 === 0 ? 100 * Math.floor(random() * 6) : random() * 600);
      const [e, n] = [at(), at()];
      const touched: string[] = [];
      squaresTouched(layout, e, n, (column, row) => touched.push(`${column} ${row}`));
      const expected: string[] = [];
      let owners = 0;
      for (let row = -5; row < 5; row++)
        for (let column = -5; column < 5; column++) {
          const land = { west: column * 100, south: row * 100, east: column * 100 + 100, north: row * 100 + 100 };
          if (ownsPlace(land, e, n)) owners++;
          if (ownsPlace(withMargin(land, 25), e, n) || (e === land.east + 25 && n < land.north + 25 && n >= land.south - 25)) expected.push(`${column} ${row}`); // prettier-ignore
        }
      expect(owners).toBe(1);
      expect(touched).toEqual(expect.arrayContaining(expected));
      expect(touched.length).toBeGreaterThanOrEqual(expected.length);
      expect(touched.length).toBeLessThanOrEqual(4);
    }
  });

  test('how far a place lies from a seam, on either side of it', () => {
    const seams = seamsOf({ land: { west: 200, south: 300, east: 300, north: 400 }, side: 100, margin: 25 });
    for (const [e, n, far] of [
      [203, 350, 3],
      [197, 350, 3],
      [250, 399, 1],
    ] as const)
      // prettier-ignore
      expect(seamReach(seams, e, n)).toBeCloseTo(far, 9);
    expect(seamReach(seams, 1250.5, -750)).toBeCloseTo(49.5, 9);
  });
});

/** Land with a kerb, a wall and noise, known to two squares whose line is easting 100; each knows 25 m of the other. */
function cloud(seed: number) {
  const random = seededRandom(seed);
  const count = 60_000;
  const [e, n, z] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  for (let i = 0; i < count; i++) {
    [e[i], n[i]] = [Math.round(random() * 200_000) / 1000, Math.round(random() * 60_000) / 1000];
    const noise = Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    // The noise of the west is half of the east's: what is usual differs between the squares.
    z[i] = 0.3 * Math.sin(e[i]! / 6) + (n[i]! > 31.2 ? 0.14 : 0) + (n[i]! > 45 ? 1.2 : 0) + (e[i]! < 90 ? 0.01 : 0.02) * noise; // prettier-ignore
  }
  return { e, n, z };
}

describe('the land of a square', () => {
  const land = (there: readonly string[], column: number, row: number) =>
    landOf(layout, { column, row }, (c, r) => there.includes(`${c} ${r}`));

  test('ends at its edges where others are, and reaches into the margin where nobody is', () => {
    expect(land(['0 0', '1 0', '0 1', '1 1'], 0, 0)).toEqual({ west: -25, south: -25, east: 100, north: 100 });
    expect(land(['0 0'], 0, 0)).toEqual({ west: -25, south: -25, east: 125, north: 125 });
    const block = ['0 0', '1 0', '2 0', '0 1', '1 1', '2 1', '0 2', '1 2', '2 2'];
    expect(land(block, 1, 1)).toEqual({ west: 100, south: 100, east: 200, north: 200 });
  });

  test('no place belongs to two, whichever squares there are', () => {
    const random = seededRandom(12);
    for (let k = 0; k < 300; k++) {
      const there = Array.from({ length: 16 }, (_, i) => `${i % 4} ${i >> 2}`).filter(() => random() < 0.5);
      const lands = there.map((key) => land(there, ...(key.split(' ').map(Number) as [number, number])));
      for (let p = 0; p < 200; p++) {
        const [e, n] = [random() * 500 - 50, random() * 500 - 50];
        const owners = lands.filter((each) => ownsPlace(each, e, n)).length;
        const isInside = there.includes(`${Math.floor(e / 100)} ${Math.floor(n / 100)}`);
        if (isInside) expect(owners).toBe(1);
        else expect(owners).toBeLessThanOrEqual(1);
      }
    }
  });
});

describe('two squares that know of each other what lies in the margin', () => {
  const surfaceOf = (column: 0 | 1, usesSeams: boolean): Tin => {
    const { e, n, z } = cloud(31);
    const land = { west: column * 100, south: 0, east: column * 100 + 100, north: 100 };
    const known = withMargin(land, 25);
    const mine = Array.from(e, (_, i) => i).filter((i) => e[i]! >= known.west && e[i]! <= known.east);
    const of = (values: Float64Array): Float64Array => Float64Array.from(mine, (i) => values[i]!);
    const [x, y, h] = [of(e), of(n), of(z)];
    const kept = thinEvenLand(x, y, h, 1, { seams: usesSeams ? seamsOf({ land, side: 100, margin: 25 }) : undefined });
    const chosen = (values: Float64Array): Float64Array => Float64Array.from(kept, (i) => values[i]!);
    return cutTin(triangulate(chosen(x), chosen(y), chosen(h), { maximumEdge: 3 }).tin, { ...land, north: 60 });
  };
  const difference = (usesSeams: boolean) =>
    profilesDiffer(edgeProfile(surfaceOf(0, usesSeams), 'east', 100), edgeProfile(surfaceOf(1, usesSeams), 'east', 100), 1e-6); // prettier-ignore

  test('build surfaces that are one along the line between them', () => {
    const { shared, oneSided, worst, differing } = difference(true);
    expect(shared).toBeGreaterThan(58);
    expect([oneSided < 1, differing]).toEqual([true, 0]);
    expect(worst).toBeLessThan(1e-9);
  });

  test('which they would not be if each went by what is usual in itself', () => {
    expect(difference(false).differing).toBeGreaterThan(1);
  });
});

describe('the land along a line', () => {
  const profile = (...stretches: number[]) => ({ stretches: Float64Array.from(stretches) });

  test('is compared where both have some, and told where one alone has', () => {
    const one = profile(0, 10, 4, 10, 6, 10, 10, 14);
    const other = profile(0, 10, 2, 10, 2, 10, 8, 10.3);
    const { shared, oneSided, worst, differing } = profilesDiffer(one, other, 0.01);
    expect([shared, oneSided]).toEqual([6, 4]);
    // At 8 the one has 12, the other 10.3.
    expect(worst).toBeCloseTo(1.7, 9);
    expect(differing).toBe(4);
  });

  test('nothing beside nothing differs by nothing', () => {
    expect(profilesDiffer(profile(), profile(), 0.01)).toEqual({ shared: 0, oneSided: 0, worst: 0, differing: 0 });
  });
});

describe('lines of a square', () => {
  const line = (corners: readonly (readonly [number, number, number])[], isClosed = false): LineShape =>
    shapeOf(corners.map(([e, n, z]) => ({ e, n, z, source: 1 })), isClosed); // prettier-ignore
  const land = (column: number) => ({ west: column * 100, south: 0, east: column * 100 + 100, north: 100 });

  test('are cut where they leave it, and the pieces of two squares end in one place', () => {
    const track = line([[20, 20, 5], [150.7, 61.3, 9], [170, 30, 8]]); // prettier-ignore
    const [[west], [east]] = [lineInSquare(track, land(0)), lineInSquare(track, land(1))];
    expect([west!.easting.at(-1), east!.easting[0]]).toEqual([100, 100]);
    expect(west!.northing.at(-1)).toBe(east!.northing[0]);
    expect(west!.elevation.at(-1)).toBe(east!.elevation[0]);
    expect(east!.easting.length).toBe(3);
    // The same for a line drawn the other way.
    const back = line([[170, 30, 8], [150.7, 61.3, 9], [20, 20, 5]]); // prettier-ignore
    expect(lineInSquare(back, land(0))[0]!.northing[0]).toBe(west!.northing.at(-1));
  });

  test('that go out and come back are two pieces; those outside none', () => {
    const bow = line([[90, 10, 1], [110, 20, 1], [90, 30, 1]]); // prettier-ignore
    expect(lineInSquare(bow, land(0)).map(({ northing }) => [...northing])).toEqual([[10, 15], [25, 30]]); // prettier-ignore
    expect(lineInSquare(bow, land(3))).toEqual([]);
  });

  test('that close are whole, and in one square alone', () => {
    const house = line([[95, 10, 1], [107, 10, 1], [107, 20, 1], [95, 20, 1]], true); // prettier-ignore
    expect(lineInSquare(house, land(0))).toEqual([]);
    expect(lineInSquare(house, land(1))).toEqual([house]);
  });
});
