import { describe, expect, test } from 'vitest';
import { PamperoError, seededRandom } from '../../task/index.js';
import { bufferSource } from '../byte-source.js';
import type { LoosePoints } from '../loose-points.js';
import { readPtxPoints, type PtxReport } from './ptx-points.js';

const scan = (rows: string[], matrix: string[]): string =>
  ['2', String(rows.length / 2), '0 0 0', '1 0 0', '0 1 0', '0 0 1', ...matrix, ...rows].join('\n');
const IDENTITY = ['1 0 0 0', '0 1 0 0', '0 0 1 0', '0 0 0 1'];

async function read(text: string): Promise<{ batches: LoosePoints[]; report: PtxReport }> {
  const report: PtxReport = { scans: 0, withoutReturn: 0, warnings: [] };
  const batches: LoosePoints[] = [];
  for await (const batch of readPtxPoints(bufferSource('hall.ptx', Buffer.from(text)), report)) batches.push(batch);
  return { batches, report };
}

describe('PTX', () => {
  test('points are turned and moved by the scan’s transformation, rows from the left', async () => {
    // A quarter turn that brings x onto y, then a move.
    const turned = ['0 1 0 0', '-1 0 0 0', '0 0 1 0', '5512000 6150000 20 1'];
    const { batches, report } = await read(scan(['1 0 0 0.5', '0 2 3 1', '0 0 0 0.5', '4 0 0 0'], turned));
    expect([...batches[0]!.easting]).toEqual([5_512_000, 5_511_998, 5_512_000]);
    expect([...batches[0]!.northing]).toEqual([6_150_001, 6_150_000, 6_150_004]);
    expect([...batches[0]!.elevation]).toEqual([20, 23, 20]);
    expect([...batches[0]!.intensity!]).toEqual([32_768, 65_535, 0]);
    expect(report).toMatchObject({ scans: 1, withoutReturn: 1 });
  });

  test('scans follow each other and become strips; colours are widened to 16 bits', async () => {
    const { batches, report } = await read(
      `${scan(['1 1 1 0.1 255 128 0', '2 2 2 0.1 1 2 3'], IDENTITY)}\n${scan(['3 3 3 0.1 9 9 9', '4 4 4 0.1 9 9 9'], IDENTITY)}\n`,
    );
    expect(report.scans).toBe(2);
    expect([...batches[0]!.pointSourceId!]).toEqual([1, 1, 2, 2]);
    expect([...batches[0]!.red!]).toEqual([65_535, 257, 2313, 2313]);
  });

  test('a file that ends early gives what is there, and says so', async () => {
    const { batches, report } = await read(
      scan(['1 1 1 0.1', '2 2 2 0.1', '3 3 3 0.1', '4 4 4 0.1'], IDENTITY).slice(0, -10),
    );
    expect(batches[0]!.count).toBe(3);
    expect(report.warnings.map((w) => w.code)).toEqual(['file-cut-short']);
  });

  test.each([
    ['a header that is none', 'points\n3\n', /10 lines ends after 3/],
    [
      'a row of the transformation that is none',
      scan(['1 1 1 1', '2 2 2 1'], ['1 0 0 0', 'x', '0 0 1 0', '0 0 0 1']),
      /line 8.*|"x"/,
    ],
    ['a line that is no point', scan(['1 1 1 1', 'two'], IDENTITY), /"two" is no point/],
  ])('%s is named with its line', async (_, text, message) => {
    await expect(read(text)).rejects.toThrow(message);
  });

  test('1 000 texts bent anywhere: a typed error or points', async () => {
    const good = scan(['1 1 1 0.1', '2 2 2 0.1', '3 3 3 0.1', '4 4 4 0.1'], IDENTITY);
    const random = seededRandom(9);
    for (let k = 0; k < 1000; k++) {
      const bytes = Buffer.from(good.slice(0, random() < 0.3 ? Math.floor(random() * good.length) : good.length));
      for (let f = 0; f < 3 && bytes.length > 0; f++)
        bytes[Math.floor(random() * bytes.length)] = Math.floor(random() * 256);
      try {
        await read(bytes.toString('latin1'));
      } catch (error) {
        expect(error).toBeInstanceOf(PamperoError);
      }
    }
  });
});
