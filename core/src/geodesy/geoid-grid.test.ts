import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { PamperoError, seededRandom } from '../task/index.js';
import { geoidHeight, readGtx, writeGtx, type GeoidGrid } from './geoid-grid.js';

const grid: GeoidGrid = {
  south: -36,
  west: -62,
  latitudeStep: 0.25,
  longitudeStep: 0.5,
  rows: 13,
  columns: 9,
  values: Float32Array.from(
    { length: 13 * 9 },
    (_, i) => 15 + 0.3 * (i % 9) - 0.2 * Math.floor(i / 9) + 0.05 * ((i * 7) % 5),
  ),
};
const folder = mkdtempSync(join(tmpdir(), 'pampero-geoid-'));
afterAll(() => rmSync(folder, { recursive: true }));

describe('geoid grids', () => {
  test('a written grid is read as it was', () => {
    expect(readGtx(writeGtx(grid), 'x.gtx')).toEqual(grid);
  });

  test('heights agree with cs2cs over the same grid to 0.1 mm', () => {
    const path = join(folder, 'made-up.gtx');
    writeFileSync(path, writeGtx(grid));
    const random = seededRandom(3);
    const places = Array.from({ length: 50 }, () => [-62 + 4 * random(), -36 + 3 * random()] as const);
    const output = execFileSync(
      'cs2cs',
      [
        '-f',
        '%.6f',
        '+proj=longlat',
        '+ellps=GRS80',
        '+towgs84=0,0,0',
        '+to',
        '+proj=longlat',
        '+ellps=GRS80',
        '+towgs84=0,0,0',
        `+geoidgrids=${path}`,
      ],
      { input: places.map(([lon, lat]) => `${lon} ${lat} 100`).join('\n') },
    ).toString();
    output
      .trim()
      .split('\n')
      .forEach((line, i) => {
        const height = Number(line.trim().split(/\s+/)[2]);
        expect(100 - geoidHeight(grid, places[i]![1], places[i]![0])!).toBeCloseTo(height, 4);
      });
  });

  test('longitudes counted from 0 to 360 find their place in the same grid', () => {
    expect(geoidHeight(grid, -35, 299)).toBeCloseTo(geoidHeight(grid, -35, -61)!, 6);
  });

  test('outside the grid and where it has no value there is no height', () => {
    expect(geoidHeight(grid, -37, -61)).toBeUndefined();
    expect(geoidHeight(grid, -35, -57)).toBeUndefined();
    const holed = { ...grid, values: grid.values.slice() };
    holed.values[0] = -88.8888;
    expect(geoidHeight(holed, -35.9, -61.9)).toBeUndefined();
    expect(geoidHeight(grid, -33, -58)).toBeCloseTo(grid.values.at(-1)!, 6);
  });

  test('1 000 grids bent anywhere: a typed error or a grid', () => {
    const good = writeGtx(grid);
    const random = seededRandom(8);
    for (let k = 0; k < 1000; k++) {
      const bent = good.slice(0, random() < 0.4 ? Math.floor(random() * good.length) : good.length);
      for (let f = 0; f < 3 && bent.length > 0; f++)
        bent[Math.floor(random() * Math.min(44, bent.length))] = Math.floor(random() * 256);
      try {
        geoidHeight(readGtx(bent, 'bent.gtx'), -35, -60);
      } catch (error) {
        expect(error).toBeInstanceOf(PamperoError);
      }
    }
  });
});
