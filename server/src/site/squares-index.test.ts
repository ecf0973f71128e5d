import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Seam } from './seams.js';
import type { SquareWork } from './square-board.js';
import { squaresIndex } from './squares-index.js';

let folder: string;
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'pampero-squares-'))));
afterAll(() => rmSync(folder, { recursive: true }));

const squares = [
  { name: '5512000_6150000', column: 5512, row: 6150, own: 700, margin: 90, files: ['points.las'] },
  { name: '5513000_6150000', column: 5513, row: 6150, own: 500, margin: 80, files: ['points.las'] },
  { name: '5512000_6151000', column: 5512, row: 6151, own: 30, margin: 8, files: ['points.las'] },
];
const work = (phase: SquareWork['phase'], because?: string): SquareWork => ({ by: 'a', phase, beat: 1, hasClasses: true, isLeft: false, ...(because && { because }) }); // prettier-ignore
const seam = (square: string, neighbour: string, worst: number): Seam => ({ surface: 'Ground', square, neighbour, side: 'east', shared: 1000, oneSided: 0, worst, differing: 0 }); // prettier-ignore

test('squares of a site are polygons in its system for GDAL, with how far each is and how well it meets the others', () => {
  const works = new Map([
    ['5512000_6150000', work('done')],
    ['5513000_6150000', work('stopped', 'No ground was found.')],
  ]);
  const seams = [seam('5512000_6150000', '5513000_6150000', 0.012_34), seam('5512000_6150000', '5512000_6151000', 0.2)];
  const path = join(folder, 'squares.geojson');
  writeFileSync(path, squaresIndex({ side: 1000, margin: 60, epsg: 5347 }, squares, works, seams));

  const told = execFileSync('ogrinfo', ['-al', path], { encoding: 'utf8' });
  expect(told).toMatch(/ID\["EPSG",5347\]/);
  expect(told).toContain('Feature Count: 3');
  expect(told).toContain('Extent: (5512000.000000, 6150000.000000) - (5514000.000000, 6152000.000000)');
  expect(told).toContain('because (String) = No ground was found.');

  const csv = execFileSync('ogr2ogr', ['-f', 'CSV', '/vsistdout/', path, '-dialect', 'SQLite', '-sql', 'SELECT square, points, state, edges, worst_difference, ST_Area(geometry) AS area, ST_IsValid(geometry) AS valid FROM squares'], { encoding: 'utf8' }); // prettier-ignore
  expect(csv.replaceAll('"', '').trim().split(/\r?\n/).slice(1)).toEqual([
    '5512000_6150000,700,done,2,0.2,1000000,1',
    '5513000_6150000,500,stopped,1,0.0123,1000000,1',
    '5512000_6151000,30,not begun,1,0.2,1000000,1',
  ]);
});
