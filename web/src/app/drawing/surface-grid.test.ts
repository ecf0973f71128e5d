import { rampTable } from '@pampero/core/tints';
import { expect, test } from 'vitest';
import { Outline } from '@pampero/core/selection';
import { gridElevation } from './grid-elevation';
import { spreadOf } from './value-spread';
import { areaOver, profileOver, surfaceAt, shadedGrid, spreadOfValues, tintedValues } from './surface-grid';

/** A plane rising 3 in 4 eastwards, 41 by 41 corners a metre apart, from elevation 10; one corner missing. */
function plane(hole = false) {
  const columns = 41;
  const elevation = new Float32Array(columns * columns);
  for (let row = 0; row < columns; row++)
    for (let column = 0; column < columns; column++) elevation[row * columns + column] = 10 + 0.75 * column;
  if (hole) elevation[20 * columns + 20] = NaN;
  const frame = { east: -0.5, north: -0.5, cell: 1, columns, rows: columns };
  return shadedGrid(elevation, frame, [0, 0, 0], elevation, { table: rampTable('land'), low: 10, high: 40 });
}

test('elevations between corners are those of the plane; none beside a hole or outside', () => {
  const grid = plane(true);
  expect(gridElevation(grid, 3.25, 7.5)).toBeCloseTo(10 + 0.75 * 3.25, 6);
  expect(gridElevation(grid, 19.5, 19.5)).toBeNaN();
  expect(gridElevation(grid, -0.1, 5)).toBeNaN();
  expect(gridElevation(grid, 41, 5)).toBeNaN();
});

test('a profile along and across the slope', () => {
  const grid = plane();
  const along = profileOver(grid, [2, 5, 12, 5]);
  expect(along.stations[0]).toBe(0);
  expect(along.stations.at(-1)).toBe(10);
  expect(along.elevations.at(-1)! - along.elevations[0]!).toBeCloseTo(7.5, 5);
  expect(profileOver(grid, [-5, 5, 5, 5]).elevations[0]).toBeNaN();
});

test('area and volume of a plane over a square, to a hundredth of a per cent', () => {
  const grid = plane();
  const corners = [[5, 5], [25, 5], [25, 25], [5, 25]] as const; // prettier-ignore
  const outline = new Outline(corners);
  const area = areaOver(grid, corners, (x, y) => outline.contains(x, y), 10)!;
  expect(area.planArea / 400).toBeCloseTo(1, 3);
  // A slope of 3 in 4 is 5 in 4 long.
  expect(area.slopeArea / 500).toBeCloseTo(1, 3);
  // Mean height over the level 0.75 · 15, times the area.
  expect(area.over / (400 * 11.25)).toBeCloseTo(1, 3);
  expect(area.under).toBe(0);
  const beside = [[100, 100], [110, 100], [110, 110]] as const; // prettier-ignore
  expect(areaOver(grid, beside, () => true, 0)).toBeUndefined();
});

test('the spread of values leaves out strays and those that are none', () => {
  const values = Float64Array.from({ length: 10_000 }, (_, i) => (i === 0 ? 1e6 : i === 1 ? NaN : i / 100));
  const spread = spreadOf('height', [values])!;
  expect(spread.high).toBeLessThan(101);
  expect(spread.percentiles[2]).toBeCloseTo(2, 1);
  expect(spread.percentiles[95]).toBeCloseTo(95, 1);
  expect(spread.counts.reduce((sum, n) => sum + n, 0)).toBeGreaterThan(9900);
  expect(spreadOf('height', [new Float64Array(5).fill(NaN)])).toBeUndefined();
});

test('a plane has one slope throughout; values of another raster are those of its cells, none outside it', () => {
  const elevation = Float32Array.from({ length: 100 }, (_, i) => 0.75 * (i % 10));
  const frame = { east: 0, north: 0, cell: 1, columns: 10, rows: 10 };
  const slopes = tintedValues(elevation, frame, 'slope');
  // Away from the sides, where there is a neighbour on either hand: atan 3/4 is 36.87 degrees.
  expect(slopes[44]).toBeCloseTo(36.8699, 3);
  const place = { east: 2, north: 2, cell: 4, columns: 2, rows: 2 };
  const other = tintedValues(elevation, frame, { values: Float32Array.of(1, 2, 3, 4), place });
  expect([other[0], other[22], other[27], other[77]]).toEqual([NaN, 1, 2, 4]);
  expect(spreadOfValues(Float32Array.of(0, 1, 1, NaN, 4), 4)).toEqual({ low: 0, high: 4, counts: [1, 2, 0, 1] });
});

test('under the cursor: elevation, slope, distance and rise from the corner before; plainly none outside', () => {
  const grid = plane();
  const answer = surfaceAt(grid, [10, 5], [4, 5], 100);
  expect(answer.elevation).toBeCloseTo(110 + 7.5, 5);
  expect(answer.slope).toBeCloseTo(0.75, 5);
  expect(answer.from!.distance).toBe(6);
  expect(answer.from!.rise).toBeCloseTo(4.5, 5);
  expect(surfaceAt(grid, [100, 5], undefined, 100).elevation).toBeUndefined();
});
