import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  cornersOf,
  densifyLine,
  extendLine,
  fillElevations,
  gradeLine,
  joinLines,
  LineIndex,
  MAGNETS,
  offsetLine,
  packLines,
  planLength,
  reverseLine,
  selfCrossings,
  shapeOf,
  simplifyLine,
  smoothLine,
  sourceNumber,
  splitLine,
  trimLine,
  unpackLines,
  withoutCorner,
  type LineShape,
} from './index.js';

const line = (places: readonly (readonly [number, number, number?])[], isClosed = false): LineShape =>
  shapeOf(
    places.map(([e, n, z]) => ({ e, n, z: z ?? NaN, source: sourceNumber('file') })),
    isClosed,
  );
const places = (shape: LineShape): number[][] => cornersOf(shape).map(({ e, n, z }) => [e, n, z]);

/** A line that goes on to the east, so that it never crosses itself. */
const wandering = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 40 }), fc.integer({ min: -30, max: 30 }), fc.integer({ min: 0, max: 9 })), {
    minLength: 2,
    maxLength: 60,
  })
  .map((steps) => {
    let e = 5_512_000;
    return line(steps.map(([step, n, z]) => [(e += step / 10), 6_150_000 + n / 10, 20 + z / 10]));
  });

describe('simplifying (Douglas and Peucker 1973)', () => {
  test('a corner 3 cm off a leg goes at 5 cm and stays at 2 cm', () => {
    const bent = line([[0, 0, 0], [5, 0.03, 0], [10, 0, 0]]); // prettier-ignore
    expect(places(simplifyLine(bent, 0.05))).toEqual([[0, 0, 0], [10, 0, 0]]); // prettier-ignore
    expect(simplifyLine(bent, 0.02).easting.length).toBe(3);
  });

  test('it is measured in space: a bump of 20 cm in height alone stays', () => {
    expect(simplifyLine(line([[0, 0, 0], [5, 0, 0.2], [10, 0, 0]]), 0.1).easting.length).toBe(3); // prettier-ignore
  });

  test('no corner that goes lies further off than the tolerance, and ends stay', () => {
    fc.assert(
      fc.property(wandering, fc.constantFrom(0.05, 0.3, 1), (given, tolerance) => {
        const simple = simplifyLine(given, tolerance);
        for (const { e, n, z } of cornersOf(given)) {
          let nearest = Infinity;
          for (let k = 1; k < simple.easting.length; k++)
            nearest = Math.min(nearest, distanceInSpace(simple, k, e, n, z));
          expect(nearest).toBeLessThanOrEqual(tolerance + 1e-9);
        }
        expect(places(simple)[0]).toEqual(places(given)[0]);
        expect(places(simple).at(-1)).toEqual(places(given).at(-1));
      }),
      { seed: 1707, numRuns: 200 },
    );
  });

  test('a line that does not cross itself does not afterwards', () => {
    // A spiral: without care, the outer turns are cut across the inner ones.
    const spiral = fc
      .tuple(fc.integer({ min: 20, max: 80 }), fc.constantFrom(0.5, 1, 2, 4))
      .map(([count, tolerance]) => ({
        tolerance,
        given: line(Array.from({ length: count }, (_, k) => {
        const [turn, radius] = [k * 0.5, 1 + k * 0.12];
        return [radius * Math.cos(turn), radius * Math.sin(turn), 0] as const;
      })), // prettier-ignore
      }));
    fc.assert(
      fc.property(spiral, ({ given, tolerance }) => {
        expect(selfCrossings(given)).toEqual([]);
        expect(selfCrossings(simplifyLine(given, tolerance))).toEqual([]);
      }),
      { seed: 1707, numRuns: 100 },
    );
  });

  test('a ring keeps an area', () => {
    const ring = line([[0, 0, 0], [1, 0.1, 0], [2, 0, 0], [1, 0.2, 0]], true); // prettier-ignore
    expect(simplifyLine(ring, 10).easting.length).toBe(3);
  });
});

describe('an offset line', () => {
  test('lies to the right in its direction, mitred: an L of 10 by 10, 1 to the right and 0.15 up', () => {
    const corner = line([[0, 0, 5], [0, 10, 5], [10, 10, 5]]); // prettier-ignore
    const beside = places(offsetLine(corner, 1, 0.15));
    const expected = [[1, 0, 5.15], [1, 9, 5.15], [10, 9, 5.15]]; // prettier-ignore
    beside.forEach((place, k) => place.forEach((value, axis) => expect(value).toBeCloseTo(expected[k]![axis]!, 9)));
  });

  test('and back is the line, where it bends gently', () => {
    const gentle = fc.array(fc.double({ min: -0.25, max: 0.25, noNaN: true }), { minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(gentle, fc.constantFrom(0.3, -0.5, 1), (bends, distance) => {
        let [e, n, turn] = [0, 0, 0];
        const given = line([[0, 0, 1], ...bends.map((bend) => {
          turn += bend;
          return [(e += 10 * Math.cos(turn)), (n += 10 * Math.sin(turn)), 1] as const;
        })]); // prettier-ignore
        const back = offsetLine(offsetLine(given, distance, 0.2), -distance, -0.2);
        expect(back.easting.length).toBe(given.easting.length);
        for (let k = 0; k < given.easting.length; k++) {
          expect(back.easting[k]).toBeCloseTo(given.easting[k]!, 8);
          expect(back.northing[k]).toBeCloseTo(given.northing[k]!, 8);
          expect(back.elevation[k]).toBeCloseTo(1, 9);
        }
      }),
      { seed: 1707, numRuns: 200 },
    );
  });

  test('a bend of radius 2 leaves no loop at 3 inwards: the two legs meet in a corner', () => {
    const arc = Array.from({ length: 25 }, (_, k) => (Math.PI * k) / 48);
    const bend = line([[2, -20], ...arc.map((a) => [2 * Math.cos(a), 2 * Math.sin(a)] as const), [-20, 2]]);
    const inside = offsetLine(bend, -3); // to the left: into the bend
    expect(selfCrossings(inside)).toEqual([]);
    const expected = [[-1, -20], [-1, -1], [-20, -1]]; // prettier-ignore
    expect(inside.easting.length).toBe(3);
    cornersOf(inside).forEach(({ e, n }, k) => {
      expect(e).toBeCloseTo(expected[k]![0]!, 6);
      expect(n).toBeCloseTo(expected[k]![1]!, 6);
    });
  });

  test('an outline wholly tighter than the offset is refused', () => {
    const ring = line([[0, 0], [1, 0], [1, 1], [0, 1]], true); // prettier-ignore
    expect(() => offsetLine(ring, -5)).toThrow(expect.objectContaining({ code: 'offset-vanishes' }) as Error);
  });
});

describe('smoothing', () => {
  test('stays within the tolerance of a right angle, touches it there, and keeps the ends', () => {
    const smooth = smoothLine(line([[0, 0, 0], [10, 0, 0], [10, 10, 0]]), 0.5, 0.001); // prettier-ignore
    const off = cornersOf(smooth).map(({ e, n }) => Math.hypot(e - 10, n));
    expect(Math.min(...off)).toBeCloseTo(0.5, 2);
    expect(places(smooth)[0]).toEqual([0, 0, 0]);
    expect(places(smooth).at(-1)).toEqual([10, 10, 0]);
  });

  test('legs lie within the chord tolerance of the parabola: its middle is at (a + 2c + b) / 4', () => {
    const [coarse, fine] = [0.1, 0.001].map((chord) => smoothLine(line([[0, 0], [10, 0], [10, 10]]), 2, chord)); // prettier-ignore
    expect(fine!.easting.length).toBeGreaterThan(3 * coarse!.easting.length);
  });
});

describe('corners put in', () => {
  test('at a step of 4 on a leg of 10: three pieces, elevations between', () => {
    expect(places(densifyLine(line([[0, 0, 0], [9, 0, 3]]), 4))).toEqual([[0, 0, 0], [3, 0, 1], [6, 0, 2], [9, 0, 3]]); // prettier-ignore
  });

  test('a grade from 10 to 11 over 10 along and 10 across', () => {
    const graded = gradeLine(line([[0, 0], [10, 0], [10, 10]]), 10, 11); // prettier-ignore
    expect([...graded.elevation]).toEqual([10, 10.5, 11]);
    expect(() => gradeLine(line([[0, 0], [1, 0]]), 10)).toThrow(expect.objectContaining({ code: 'line-without-elevation' }) as Error); // prettier-ignore
  });

  test('corners without an elevation take one between their neighbours, or that of the nearest end', () => {
    expect([...fillElevations(line([[0, 0], [1, 0, 5], [3, 0], [5, 0, 9]])).elevation]).toEqual([5, 5, 7, 9]); // prettier-ignore
  });
});

describe('cutting and joining', () => {
  test('split and joined again is the line', () => {
    fc.assert(
      fc.property(wandering, fc.nat(), fc.double({ min: 0, max: 1, noNaN: true }), (given, pick, share) => {
        const leg = pick % (given.easting.length - 1);
        const parts = splitLine(given, { leg, share });
        if (parts.length === 1) return;
        const joined = joinLines(parts[0]!, parts[1]!, 1e-9);
        expect(planLength(joined)).toBeCloseTo(planLength(given), 6);
        expect(joined.isClosed).toBe(false);
        const own = new Set(places(joined).map(String));
        for (const place of places(given)) expect(own.has(String(place))).toBe(true);
      }),
      { seed: 1707, numRuns: 200 },
    );
  });

  test('the nearest ends are joined, whichever way the lines run', () => {
    const [a, b] = [line([[0, 0], [1, 0]]), line([[5, 0], [2, 0]])]; // prettier-ignore
    expect(places(joinLines(a, b, 0.01)).map(([e]) => e)).toEqual([0, 1, 2, 5]);
    expect(places(joinLines(reverseLine(a), b, 0.01)).map(([e]) => e)).toEqual([5, 2, 1, 0]);
    expect(() => joinLines(a, b, 0.01, 0.5)).toThrow(expect.objectContaining({ code: 'lines-apart' }) as Error);
  });

  test('a ring that is split is one line, begun and ended there', () => {
    const [open] = splitLine(line([[0, 0], [4, 0], [4, 4], [0, 4]], true), { leg: 0, share: 0.5 }); // prettier-ignore
    expect(places(open!).map(([e, n]) => [e, n])).toEqual([[2, 0], [4, 0], [4, 4], [0, 4], [0, 0], [2, 0]]); // prettier-ignore
  });

  test('trimmed to another line, and lengthened to it again', () => {
    const [given, other] = [line([[0, 0, 0], [10, 0, 10]]), line([[7, -5], [7, 5]])]; // prettier-ignore
    const short = trimLine(given, other, 'end');
    expect(places(short)).toEqual([[0, 0, 0], [7, 0, 7]]); // prettier-ignore
    const longer = extendLine(line([[0, 0, 0], [2, 0, 2]]), 'end', other); // prettier-ignore
    places(longer)
      .at(-1)!
      .forEach((value, axis) => expect(value).toBeCloseTo([7, 0, 7][axis]!, 9));
    expect(places(extendLine(given, 'start', 5))[0]).toEqual([-5, 0, -5]);
    expect(() => extendLine(given, 'start', other)).toThrow(expect.objectContaining({ code: 'no-crossing' }) as Error);
  });

  test('the last two corners of a line cannot be taken out', () => {
    expect(() => withoutCorner(line([[0, 0], [1, 1]]), 0)).toThrow(expect.objectContaining({ code: 'line-too-short' }) as Error); // prettier-ignore
  });
});

describe('magnets', () => {
  const all = new Set(MAGNETS);
  const index = new LineIndex([line([[0, 0, 10], [10, 0, 20]]), line([[5, -5, 0], [5, 5, 0]])]); // prettier-ignore

  test('a corner holds before a side', () => {
    expect(index.snap(0.2, 0.2, 0.5, all)).toMatchObject({ magnet: 'corner', easting: 0, northing: 0, elevation: 10 });
  });

  test('a crossing holds before the sides that make it', () => {
    expect(index.snap(5.1, 0.1, 0.5, all)).toMatchObject({ magnet: 'crossing', easting: 5, northing: 0 });
  });

  test('on a side, the elevation is between those of its ends', () => {
    expect(index.snap(2, 0.3, 0.5, all)).toMatchObject({ magnet: 'side', easting: 2, northing: 0, elevation: 12 });
  });

  test('the foot of the leg that is drawn', () => {
    expect(index.snap(3.1, 0.1, 0.5, all, [3, 8])).toMatchObject({ magnet: 'perpendicular', easting: 3, northing: 0 });
  });

  test('nothing out of reach, nothing that was not asked for', () => {
    expect(index.snap(2, 3, 0.5, all)).toBeUndefined();
    expect(index.snap(0.1, 0.1, 0.5, new Set(['side']))).toMatchObject({ magnet: 'side' });
  });

  test('a million legs answer in a tenth of the 30 ms they may take', () => {
    const many = Array.from({ length: 50_000 }, (_, k) =>
      line(Array.from({ length: 21 }, (__, c) => [(k % 250) * 40 + c, Math.floor(k / 250) * 5 + (c % 2), 0] as const)),
    );
    const big = new LineIndex(many);
    const begun = performance.now();
    for (let k = 0; k < 100; k++) big.snap(k * 97.3, k * 9.1, 1, all, [0, 0]);
    expect((performance.now() - begun) / 100).toBeLessThan(3);
  });
});

test('lines packed and unpacked are the same, keys and sources too', () => {
  const given = [
    { ...line([[1, 2, 3], [4, 5]]), key: 7, entry: 2 }, // prettier-ignore
    { ...line([[0, 0, 1], [1, 0, 1], [1, 1, 1]], true), key: 9, entry: 3 }, // prettier-ignore
  ];
  const back = unpackLines(packLines(given));
  expect(back.map(({ key, entry, isClosed }) => [key, entry, isClosed])).toEqual([[7, 2, false], [9, 3, true]]); // prettier-ignore
  expect(back.map(places)).toEqual(given.map(places));
  expect([...back[0]!.source]).toEqual([sourceNumber('file'), 0]);
});

function distanceInSpace(shape: LineShape, k: number, e: number, n: number, z: number): number {
  const [a, b] = [cornersOf(shape)[k - 1]!, cornersOf(shape)[k]!];
  const u = [b.e - a.e, b.n - a.n, b.z - a.z] as const;
  const p = [e - a.e, n - a.n, z - a.z] as const;
  const dot = (s: readonly number[], t: readonly number[]): number => s.reduce((sum, v, i) => sum + v * t[i]!, 0);
  const share = Math.max(0, Math.min(1, dot(p, u) / Math.max(1e-18, dot(u, u))));
  return Math.hypot(...p.map((v, i) => v - share * u[i]!));
}
