import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import { contourDefaults, traceGrid, type ContourSet } from './index.js';

function grid(height: (e: number, n: number) => number, columns = 80, rows = 60, cell = 0.5) {
  const frame = { east: 100, north: 200, cell, columns, rows };
  const values = Float32Array.from({ length: columns * rows }, (_, at) =>
    height(100 + ((at % columns) + 0.5) * cell, 200 + (Math.floor(at / columns) + 0.5) * cell),
  );
  return { values, frame };
}
function* vertices({ level, starts, easting, northing, origin }: ContourSet) {
  for (let l = 0; l < level.length; l++)
    for (let v = starts[l]!; v < starts[l + 1]!; v++)
      yield { l, level: level[l]!, e: easting[v]! + origin[0], n: northing[v]! + origin[1] };
}

describe('contours of a grid', () => {
  test('of a plane are straight and at their place, from side to side', () => {
    const { values, frame } = grid((e, n) => 0.3 * (e - 100) - 0.4 * (n - 200));
    const set = traceGrid(values, frame, { ...contourDefaults, interval: 1 });
    for (const { level, e, n } of vertices(set)) expect(0.3 * (e - 100) - 0.4 * (n - 200)).toBeCloseTo(level, 4);
    expect(set.isClosed.some((is) => is === 1)).toBe(false);
    expect(new Set(set.level).size).toBe(set.level.length);
  });

  test('of a hill close and are no depressions, of a pit they are; the higher ground is on the right', () => {
    const bowl = (sign: number) => grid((e, n) => 50 + sign * Math.hypot(e - 120, n - 215));
    for (const sign of [1, -1]) {
      const { values, frame } = bowl(sign);
      const set = traceGrid(values, frame, { ...contourDefaults, interval: 2, base: 1, from: 38, to: 62 });
      const closed = [...set.isClosed].flatMap((is, l) => (is === 1 ? [l] : []));
      expect(closed.length).toBe(6);
      for (const l of closed) {
        expect(set.isDepression[l]).toBe(sign === 1 ? 1 : 0);
        const [from, to] = [set.starts[l]!, set.starts[l + 1]! - 1];
        expect([set.easting[from], set.northing[from]]).toEqual([set.easting[to], set.northing[to]]);
      }
    }
  });

  test('pass a saddle on the side that its middle says, and go round a cell without a value', () => {
    const frame = { east: 0, north: 0, cell: 1, columns: 2, rows: 2 };
    const lines = (middle: number): number[][] => {
      const set = traceGrid(Float32Array.of(0, middle, middle, 0), frame, {
        ...contourDefaults,
        interval: 100,
        base: 5,
      });
      return Array.from(set.level, (_, l) => {
        const v = set.starts[l]!;
        return [set.easting[v]!, set.northing[v]!, set.easting[v + 1]!, set.northing[v + 1]!];
      });
    };
    // Corners 0 and 12: the mean of 6 is above the 5, so the low corners are cut off.
    for (const [ae, an, be, bn] of lines(12)) expect(Math.abs(ae! - be!) + Math.abs(an! - bn!)).toBeLessThan(1);
    expect(lines(12)).toHaveLength(2);
    // The mean of 4 is under it: the high corners, three tenths of a side away.
    for (const [ae, an, be, bn] of lines(8)) {
      expect(Math.abs(ae! - be!)).toBeCloseTo(3 / 8, 6);
      expect(Math.abs(an! - bn!)).toBeCloseTo(3 / 8, 6);
    }
    const { values, frame: wide } = grid((e) => e);
    values[30 * 80 + 40] = NaN;
    const set = traceGrid(values, wide, { ...contourDefaults, interval: 1000, base: 120.1 });
    expect(set.level).toHaveLength(2);
  });

  test('never cross, whatever the grid; every line closes or ends at the rim', () => {
    for (let seed = 1; seed < 12; seed++) {
      const random = seededRandom(seed);
      const { values, frame } = grid(() => Math.round(8 * random()) / 2, 30, 24, 1);
      const set = traceGrid(values, frame, { ...contourDefaults, interval: 0.5, base: 0.25 });
      for (let l = 0; l < set.level.length; l++) {
        const [from, to] = [set.starts[l]!, set.starts[l + 1]! - 1];
        if (set.isClosed[l] === 1) continue;
        for (const v of [from, to]) {
          const [c, r] = [set.easting[v]! - 0.5, set.northing[v]! - 0.5];
          expect(Math.min(c, r, 29 - c, 23 - r)).toBeLessThan(1e-6);
        }
      }
    }
  });

  const GEOID = '/usr/share/proj/egm96_15.gtx';
  test.skipIf(!existsSync(GEOID) || !existsSync('/usr/bin/gdal_contour'))(
    'of the EGM96 geoid, as PROJ ships it: the corners that gdal_contour finds',
    () => {
      const folder = mkdtempSync(join(tmpdir(), 'pampero-contours-'));
      const [column, row, columns, rows] = [900, 150, 260, 180];
      const [tif, lines] = [join(folder, 'geoid.tif'), join(folder, 'lines.geojson')];
      const window = [column, row, columns, rows].map(String);
      execFileSync('/usr/bin/gdal_translate', ['-q', '-srcwin', ...window, GEOID, tif]);
      execFileSync('/usr/bin/gdal_contour', ['-q', '-i', '2', '-a', 'level', '-f', 'GeoJSON', tif, lines]);
      const raw = execFileSync('/usr/bin/gdal_translate', [
        '-q',
        '-of',
        'ENVI',
        '-ot',
        'Float32',
        tif,
        join(folder, 'geoid.raw'),
      ]);
      expect(raw).toBeDefined();
      const bytes = readFileSync(join(folder, 'geoid.raw'));
      const north = new Float32Array(bytes.buffer, bytes.byteOffset, columns * rows);
      // Ours begin in the south; cells a quarter of a degree, GDAL's corner from its own report.
      const values = new Float32Array(columns * rows);
      for (let r = 0; r < rows; r++)
        values.set(north.subarray((rows - 1 - r) * columns, (rows - r) * columns), r * columns);
      const info = JSON.parse(execFileSync('/usr/bin/gdalinfo', ['-json', tif]).toString()) as {
        geoTransform: number[];
      };
      const [west, cell, , top] = info.geoTransform as [number, number, number, number];
      const frame = { east: west, north: top - rows * cell, cell, columns, rows };
      const set = traceGrid(values, frame, { ...contourDefaults, interval: 2 });
      const keyOf = (level: number, e: number, n: number): string => `${level} ${e.toFixed(4)} ${n.toFixed(4)}`;
      const ours = new Set([...vertices(set)].map(({ level, e, n }) => keyOf(level, e, n)));
      const { features } = JSON.parse(readFileSync(lines, 'utf8')) as {
        features: { properties: { level: number }; geometry: { coordinates: [number, number][] } }[];
      };
      let [all, found] = [0, 0];
      for (const { properties, geometry } of features)
        for (const [e, n] of geometry.coordinates) {
          // Beyond the centres of the outermost cells GDAL goes on, we do not.
          const inside = [e - west, n - frame.north].every((d) => d > 0.51 * cell) && west + columns * cell - e > 0.51 * cell && top - n > 0.51 * cell; // prettier-ignore
          if (!inside) continue;
          all++;
          if (ours.has(keyOf(properties.level, e, n))) found++;
        }
      expect(all).toBeGreaterThan(10_000);
      expect(found / all).toBeGreaterThan(0.995);
      expect(ours.size).toBeLessThan(1.02 * all);
    },
  );
});
