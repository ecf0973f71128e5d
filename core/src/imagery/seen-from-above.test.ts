import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fillGaps, SeenFromAbove } from './index.js';

const FRAME = { east: 100, north: 200, cell: 1, columns: 4, rows: 3 };
type Seen = readonly [e: number, n: number, z: number, value: number];

function seen(points: readonly Seen[], layer = 0.3): SeenFromAbove {
  const out = new SeenFromAbove(FRAME, 1, layer);
  for (const [e, n, z] of points) out.enterHeight(e, n, z);
  for (const [e, n, z, value] of points) out.enterValues(e, n, z, [value]);
  return out;
}

describe('points as seen from above', () => {
  test('a roof hides what stands under it; points of one layer are evened out', () => {
    const picture = seen([[101.2, 201.5, 10, 50], [101.8, 201.1, 9.8, 70], [101.5, 201.5, 3, 999]]); // prettier-ignore
    expect(picture.band(0)[5]).toBe(60);
    expect(picture.heights()[5]).toBe(10);
  });

  test('a cell without points has no value, and points outside are not seen', () => {
    const picture = seen([[99.9, 201, 1, 5], [104, 201, 1, 5], [101, 203, 1, 5], [103.999, 202.999, 1, 7]]); // prettier-ignore
    const band = picture.band(0);
    expect(band[11]).toBe(7);
    expect([...band.subarray(0, 11)].every(Number.isNaN)).toBe(true);
  });

  test('does not depend on the order of the points', () => {
    const coordinate = (from: number, to: number) => fc.integer({ min: from * 100, max: to * 100 }).map((v) => v / 100);
    const points = fc.array(fc.tuple(coordinate(100, 104), coordinate(200, 203), coordinate(0, 2), fc.nat(65_535)));
    fc.assert(
      fc.property(points, (list) => {
        expect([...seen([...list].reverse()).band(0)]).toEqual([...seen(list).band(0)]);
      }),
    );
  });
});

describe('gaps', () => {
  const of = (rows: readonly string[]): Float32Array =>
    Float32Array.from(rows.join(''), (c) => (c === '.' ? NaN : Number(c)));
  const filled = (rows: readonly string[], rings: number): string[] => {
    const band = of(rows);
    fillGaps([band], { columns: rows[0]!.length, rows: rows.length }, rings);
    return rows.map((row, r) =>
      Array.from(row, (_, c) => {
        const value = band[r * row.length + c]!;
        return Number.isNaN(value) ? '.' : String(Math.round(value));
      }).join(''),
    );
  };

  test('of up to twice as many cells as rings are closed, from either side', () => {
    expect(filled(['4444444', '44...44', '4444444'], 1)).toEqual(['4444444', '4444444', '4444444']);
    expect(filled(['2..8', '2..8', '2..8'], 1)).toEqual(['2288', '2288', '2288']);
  });

  test('wider ones stay open but for nothing, and the outside stays outside', () => {
    expect(filled(['5.....5', '5.....5', '5.....5'], 1)).toEqual(['5.....5', '5.....5', '5.....5']);
    const empty = ['........', '........', '........'];
    const island = [...empty, '...44...', '...44...', ...empty];
    expect(filled(island, 2)).toEqual(island);
  });

  test('what is known is never changed, and no ring changes nothing', () => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.integer({ min: 0, max: 9 }), { nil: NaN }), { minLength: 30, maxLength: 30 }), fc.nat(4), (values, rings) => {
        const band = Float32Array.from(values);
        fillGaps([band], { columns: 6, rows: 5 }, rings);
        values.forEach((value, i) => {
          if (!Number.isNaN(value)) expect(band[i]).toBe(value);
          else if (rings === 0) expect(band[i]).toBeNaN();
        });
      }),
    ); // prettier-ignore
  });
});
