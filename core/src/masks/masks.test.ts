import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { labDistance, labOf, type PictureFrame } from '../imagery/index.js';
import { signedArea } from '../measuring/index.js';
import { seededRandom } from '../task/index.js';
import { connectedCells, piecesOf } from '../raster/index.js';
import {
  edgeLevels,
  Likeness,
  maskFrom,
  maskPolygons,
  maskRings,
  measureFar,
  pickedColours,
  shapeMask,
  stableTolerance,
  type MaskShaping,
} from './index.js';

/** A mask from rows of a text: # is in. */
function drawn(...rows: string[]): { mask: Uint8Array; size: { columns: number; rows: number } } {
  return {
    mask: Uint8Array.from(rows.join(''), (sign) => (sign === '#' ? 1 : 0)),
    size: { columns: rows[0]!.length, rows: rows.length },
  };
}
function told(mask: Uint8Array, { columns }: { columns: number }): string[] {
  const signs = Array.from(mask, (value) => (value === 1 ? '#' : '.')).join('');
  return signs.match(new RegExp(`.{${columns}}`, 'g'))!;
}
const PLAIN: MaskShaping = { soften: 0, smallestHole: 0, smallestPiece: 0, grow: 0, painted: [] };

/** Pixels of half a metre, north up. */
const frameOf = ({ columns, rows }: { columns: number; rows: number }): PictureFrame => ({
  columns,
  rows,
  east: 1000,
  eastPerColumn: 0.5,
  eastPerRow: 0,
  north: 2000,
  northPerColumn: 0,
  northPerRow: -0.5,
});
const randomMask = fc
  .tuple(fc.integer({ min: 1, max: 24 }), fc.integer({ min: 1, max: 24 }), fc.integer({ min: 1, max: 9 }))
  .chain(([columns, rows, share]) =>
    fc.record({
      size: fc.constant({ columns, rows }),
      mask: fc
        .array(fc.integer({ min: 0, max: 9 }), { minLength: columns * rows, maxLength: columns * rows })
        .map((values) => Uint8Array.from(values, (value) => (value < share ? 1 : 0))),
    }),
  );

describe('what is alike', () => {
  test('a place’s colour is the median of its pixels, and one stray pixel does not widen the tolerance', () => {
    const water = Array.from({ length: 80 }, (): [number, number, number] => [52, 70, 74]);
    const { colours, tolerance } = pickedColours([[...water, [255, 255, 255]]]);
    expect(colours).toEqual([labOf(52, 70, 74)]);
    expect(tolerance).toBe(4);
  });

  test('a cover that scatter more is given more room, in the measure of CIE 1976', () => {
    const grass = Array.from({ length: 81 }, (_, k): [number, number, number] => [120 + (k % 9), 138, 78]);
    const { colours, tolerance } = pickedColours([grass]);
    const far = grass.map((rgb) => labDistance(labOf(...rgb), colours[0]!)).sort((a, b) => a - b)[72]!;
    expect(tolerance).toBeCloseTo(Math.max(4, 1.6 * far), 12);
  });

  test('every colour is judged as its difference says, however often it is asked', () => {
    const { colours } = pickedColours([[[52, 70, 74]], [[126, 138, 78]]]);
    const likeness = new Likeness(colours);
    const byte = fc.integer({ min: 0, max: 255 });
    fc.assert(
      fc.property(byte, byte, byte, (r, g, b) => {
        const least = Math.min(...colours.map((colour) => labDistance(labOf(r, g, b), colour)));
        const expected = Math.min(254, Math.ceil(4 * least));
        expect([likeness.far(r, g, b), likeness.far(r, g, b)]).toEqual([expected, expected]);
      }),
    );
  });

  test('tiles are laid where they lie in the window; grey ones and what is no picture too', () => {
    const likeness = new Likeness([labOf(10, 10, 10)]);
    const out = new Uint8Array(9).fill(255);
    const window = { column: 3, row: 0, columns: 3, rows: 3 };
    const near = (): string[] =>
      told(
        Uint8Array.from(out, (far) => (far < 8 ? 1 : 0)),
        window,
      );
    const grey = { data: Uint8Array.of(10, 10, 200, 10), width: 2, height: 2, samples: 1 };
    measureFar(grey, undefined, [4, 1], likeness, window, out);
    expect(near()).toEqual(['...', '.##', '..#']);
    const seen = { data: Uint8Array.of(255, 0, 255, 255), width: 2, height: 2, samples: 1 };
    out.fill(255);
    measureFar(grey, seen, [2, -1], likeness, window, out);
    expect(near()).toEqual(['#..', '...', '...']);
  });

  test('a pond that grows paler towards its shore is taken to the shore, and no further', () => {
    const size = { columns: 80, rows: 80 };
    const random = seededRandom(2);
    // The colour changes by 12 from the middle to the shore; the land beyond is 28 away, with tussocks that are nearer.
    const far = Uint8Array.from({ length: 6400 }, (_, at) => {
      const d = Math.hypot((at % 80) - 40, Math.floor(at / 80) - 40);
      const value = d < 25 ? (12 * d) / 25 : random() < 0.05 ? 20 : 28;
      return Math.ceil(4 * Math.max(0, value + random() - 0.5));
    });
    const tolerance = stableTolerance(far, size, [[40, 40]], 4);
    const area = maskFrom(far, tolerance, size, { ...PLAIN, heldBy: [[40, 40]] }).reduce(
      (sum, value) => sum + value,
      0,
    );
    expect(area / (Math.PI * 25 ** 2)).toBeCloseTo(1, 1);
    expect(stableTolerance(far, size, [], 4)).toBe(tolerance);
  });

  test('an edge that the picture blurs is met half-way, whatever the tolerance', () => {
    const size = { columns: 60, rows: 20 };
    // Inside up to column 30, then four mixed pixels, then 30 units of difference beyond.
    const share = (column: number): number => Math.max(0, Math.min(1, (column + 0.5 - 30) / 4));
    const far = Uint8Array.from({ length: 1200 }, (_, at) => Math.ceil(4 * 30 * share(at % 60)));
    for (const tolerance of [4, 8, 12]) {
      const mask = maskFrom(far, tolerance, size, PLAIN);
      expect(told(mask, size)[10]!.indexOf('.')).toBe(32);
    }
  });
});

describe('pieces', () => {
  test('are those that a search from cell to cell finds, with their sizes', () => {
    fc.assert(
      fc.property(randomMask, ({ mask, size }) => {
        const { from, to, piece, cells, isAtRim } = piecesOf(size, mask, 1, true);
        const found = connectedCells(size, (at) => mask[at] === 1);
        expect([...cells].sort()).toEqual(found.map((list) => list.length).sort());
        const pieceOf = new Map<number, number>();
        from.forEach((start, run) => {
          for (let at = start; at < to[run]!; at++) pieceOf.set(at, piece[run]!);
        });
        expect(pieceOf.size).toBe(mask.reduce((sum, value) => sum + value, 0));
        for (const list of found) {
          expect(new Set(list.map((at) => pieceOf.get(at))).size).toBe(1);
          const touches = list.some((at) => {
            const [column, row] = [at % size.columns, Math.floor(at / size.columns)];
            return column === 0 || row === 0 || column === size.columns - 1 || row === size.rows - 1;
          });
          expect(isAtRim[pieceOf.get(list[0]!)!]).toBe(touches ? 1 : 0);
        }
      }),
    );
  });

  test('by sides alone, what touches at a corner is two', () => {
    const { mask, size } = drawn('#.', '.#');
    expect([...piecesOf(size, mask, 1, false).cells]).toEqual([1, 1]);
    expect([...piecesOf(size, mask, 1, true).cells]).toEqual([2]);
  });
});

describe('a mask made even', () => {
  test('softening gives each pixel what most about it are', () => {
    fc.assert(
      fc.property(randomMask, fc.integer({ min: 1, max: 4 }), ({ mask, size }, radius) => {
        const expected = mask.map((_, at) => {
          const [column, row] = [at % size.columns, Math.floor(at / size.columns)];
          let [sum, count] = [0, 0];
          for (let r = Math.max(0, row - radius); r <= Math.min(size.rows - 1, row + radius); r++)
            for (let c = Math.max(0, column - radius); c <= Math.min(size.columns - 1, column + radius); c++) {
              sum += mask[r * size.columns + c]!;
              count++;
            }
          return 2 * sum > count ? 1 : 0;
        });
        const own = Uint8Array.from(mask);
        shapeMask(own, size, { ...PLAIN, soften: radius });
        expect(own).toEqual(expected);
      }),
    );
  });

  test('small holes are filled, bays are not; small pieces go; a place holds what it lies in', () => {
    const { mask, size } = drawn('.......#', '.#####..', '.#.###..', '.#####..', '.#####..', '........');
    const whole = Uint8Array.from(mask);
    shapeMask(whole, size, { ...PLAIN, smallestHole: 2, smallestPiece: 2 });
    expect(told(whole, size)).toEqual(['........', '.#####..', '.#####..', '.#####..', '.#####..', '........']);
    const asItWas = Uint8Array.from(mask);
    shapeMask(asItWas, size, { ...PLAIN, smallestHole: 1 });
    expect(asItWas).toEqual(mask);
    const held = Uint8Array.from(mask);
    shapeMask(held, { ...size }, { ...PLAIN, smallestPiece: 2, heldBy: [[7.5, 0.5]] });
    // What hangs by a corner belongs to it, however small it is.
    expect(told(held, size)[0]).toBe('.......#');
  });

  test('growing takes every pixel within the distance, shrinking gives them back', () => {
    fc.assert(
      fc.property(randomMask, fc.double({ min: 0.5, max: 4, noNaN: true }), ({ mask, size }, grow) => {
        const near = (of: Uint8Array, value: number, at: number): boolean =>
          of.some(
            (own, other) =>
              own === value &&
              Math.hypot((at % size.columns) - (other % size.columns), Math.floor(at / size.columns) - Math.floor(other / size.columns)) <= grow, // prettier-ignore
          );
        const [out, back] = [Uint8Array.from(mask), Uint8Array.from(mask)];
        shapeMask(out, size, { ...PLAIN, grow });
        shapeMask(back, size, { ...PLAIN, grow: -grow });
        expect(out).toEqual(mask.map((_, at) => (near(mask, 1, at) ? 1 : 0)));
        expect(back).toEqual(mask.map((_, at) => (near(mask, 0, at) ? 0 : 1)));
      }),
      { numRuns: 40 },
    );
  });

  test('it stays within its outline, and the brush has the last word', () => {
    const size = { columns: 40, rows: 40 };
    const mask = new Uint8Array(1600).fill(1);
    const within = [[10, 10], [30, 10], [30, 30], [10, 30]] as const; // prettier-ignore
    const painted = [
      { path: [[20, 20]] as const, radius: 5, adds: false },
      { path: [[2, 35], [38, 35]] as const, radius: 2, adds: true }, // prettier-ignore
    ];
    shapeMask(mask, size, { ...PLAIN, within, grow: 3, painted });
    const count = mask.reduce((sum, value) => sum + value, 0);
    // The square, without the disc, with the stroke and its round ends.
    expect(Math.abs(count - (400 - Math.PI * 25 + 36 * 4 + Math.PI * 4))).toBeLessThan(6);
    expect(mask[20 * 40 + 20]).toBe(0);
  });
});

describe('edges', () => {
  test('enclose just the pixels, islands taken off, and lie on the ground where they do', () => {
    fc.assert(
      fc.property(randomMask, ({ mask, size }) => {
        const frame = frameOf(size);
        const area = maskRings(mask, frame, 0).reduce((sum, { shape, isIsland }) => {
          const own = Math.abs(signedArea(Array.from(shape.easting, (e, k) => [e, shape.northing[k]!] as const)));
          return sum + (isIsland ? -own : own);
        }, 0);
        expect(area).toBeCloseTo(0.25 * mask.reduce((sum, value) => sum + value, 0), 9);
      }),
    );
  });

  test('a pond on a slope takes the middle of the ground at its edge; far from ground there is none', () => {
    const size = { columns: 60, rows: 60 };
    const frame = frameOf(size);
    const mask = new Uint8Array(3600);
    for (let at = 0; at < 3600; at++) if (Math.hypot((at % 60) - 20, Math.floor(at / 60) - 20) < 10) mask[at] = 1;
    mask[55 * 60 + 55] = 1;
    const places = Array.from({ length: 40 * 40 }, (_, k): [number, number] => [
      (k % 40) + 0.5,
      Math.floor(k / 40) + 0.5,
    ]);
    const ground = {
      easting: Float64Array.from(places, ([c]) => 1000 + c / 2),
      northing: Float64Array.from(places, ([, r]) => 2000 - r / 2),
      // It rises all round the pond, from 30.
      elevation: Float64Array.from(places, ([c, r]) => 30 + Math.max(0, Math.hypot(c - 20.5, r - 20.5) - 10) / 10),
    };
    const level = edgeLevels(mask, frame, ground, 4);
    expect(level(20, 20)).toBeGreaterThanOrEqual(30);
    expect(level(20, 20)).toBeLessThan(30.1);
    expect(level(55, 55)).toBeNaN();
    // Whatever the order of the points.
    const turned = Object.fromEntries(Object.entries(ground).map(([name, values]) => [name, Float64Array.from(values).reverse()])); // prettier-ignore
    expect(edgeLevels(mask, frame, turned as typeof ground, 4)(20, 20)).toBe(level(20, 20));
  });
});

describe('a mask as polygons', () => {
  const square = (w: number, s: number, side: number, isLeft = true): [number, number][] => {
    const ring: [number, number][] = [[w, s], [w + side, s], [w + side, s + side], [w, s + side]]; // prettier-ignore
    return isLeft ? ring : ring.reverse();
  };
  test('each island lies in the smallest piece about it, pieces on islands are pieces, and rings turn as RFC 7946 has it', () => {
    const polygons = maskPolygons([
      { isIsland: false, places: square(0, 0, 100, false) },
      { isIsland: true, places: square(10, 10, 60) },
      { isIsland: false, places: square(20, 20, 40) },
      { isIsland: true, places: square(30, 30, 5) },
      { isIsland: false, places: square(200, 0, 10) },
    ]);
    expect(polygons.map((rings) => rings.length)).toEqual([2, 2, 1]);
    const areas = polygons.map((rings) => rings.map((ring) => signedArea(ring)));
    expect(areas).toEqual([[10_000, -3600], [1600, -25], [100]]); // prettier-ignore
  });
});
