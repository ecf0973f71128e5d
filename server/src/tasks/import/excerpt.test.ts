import { bufferSource, type LoosePoints } from '@pampero/core/formats';
import { describe, expect, test } from 'vitest';
import { excerptOf } from './excerpt.js';
import { openLooseFile, type LooseKind } from './loose-file.js';

const COUNT = 900_000;
const layout = { delimiter: ',', hasDecimalComma: false, skippedLines: 1, columns: ['easting', 'northing', 'elevation'] } as const; // prettier-ignore

async function pointsOf(source: Parameters<typeof openLooseFile>[0], kind: LooseKind): Promise<number[]> {
  const { batches } = await openLooseFile(source, kind, { ...layout, columns: [...layout.columns] } as never);
  const eastings: number[] = [];
  for await (const { easting, count } of batches as AsyncGenerator<LoosePoints>)
    for (let i = 0; i < count; i++) eastings.push(easting[i]!);
  return eastings;
}

/** Whether the eastings, which count the points of the file, come from all over it, each once and in order. */
function isFromAllOver(eastings: readonly number[], count: number): void {
  expect(eastings).toEqual([...new Set(eastings)].sort((a, b) => a - b));
  expect(eastings[0]).toBe(0);
  expect(eastings.at(-1)).toBe(count - 1);
  for (let tenth = 0; tenth < 10; tenth++)
    expect(eastings.some((e) => e >= (count * tenth) / 10 && e < (count * (tenth + 1)) / 10)).toBe(true);
}

describe('stretches from here and there', () => {
  test('of a text are whole lines from all over it, and tell how many there are', async () => {
    let text = 'E,N,Z\n';
    for (let i = 0; i < COUNT; i++) text += `${i},${6_150_000 + (i % 97)},${(i % 31) / 10}\n`;
    const whole = bufferSource('a.csv', Buffer.from(text.slice(0, -1)));
    const { source, share } = (await excerptOf(whole, 'text'))!;
    const eastings = await pointsOf(source, 'text');
    isFromAllOver(eastings, COUNT);
    expect(eastings.length).toBeLessThan(COUNT / 2);
    // Lines at the beginning are shorter than those at the end.
    expect(Math.abs(eastings.length / share / COUNT - 1)).toBeLessThan(0.05);
  });

  test('of a short text are all of it', async () => {
    const { source, share } = (await excerptOf(bufferSource('b.csv', Buffer.from('E,N,Z\n0,1,2\n1,1,2')), 'text'))!;
    expect([await pointsOf(source, 'text'), share]).toEqual([[0, 1], 1]);
  });

  test('of a binary PLY are whole vertices, after the same header', async () => {
    const head = `ply\nformat binary_little_endian 1.0\nelement vertex ${COUNT}\nproperty double x\nproperty float y\nproperty float z\nend_header\n`;
    const body = Buffer.alloc(COUNT * 16);
    for (let i = 0; i < COUNT; i++) body.writeDoubleLE(i, i * 16);
    const whole = bufferSource('c.ply', Buffer.concat([Buffer.from(head), body]));
    const { source, share } = (await excerptOf(whole, 'ply'))!;
    const eastings = await pointsOf(source, 'ply');
    isFromAllOver(eastings, COUNT);
    expect(eastings.length / share).toBeCloseTo(COUNT, 6);
  });

  test('of a PLY of text too, unless faces follow the vertices', async () => {
    const head = (more: string): string => `ply\nformat ascii 1.0\nelement vertex 50000\nproperty float x\nproperty float y\nproperty float z\n${more}end_header\n`; // prettier-ignore
    const body = Array.from({ length: 50_000 }, (_, i) => `${i} 1 2`).join('\n');
    const { source } = (await excerptOf(bufferSource('d.ply', Buffer.from(`${head('')}${body}\n`)), 'ply'))!;
    isFromAllOver(await pointsOf(source, 'ply'), 50_000);
    const faces = bufferSource('e.ply', Buffer.from(`${head('element face 1\nproperty list uchar int vertex_indices\n')}${body}\n3 0 1 2\n`)); // prettier-ignore
    expect(await excerptOf(faces, 'ply')).toBeUndefined();
  });

  test.each(['e57', 'ptx'] as const)('there are none of %s', async (kind) => {
    expect(await excerptOf(bufferSource('f', new Uint8Array(10)), kind)).toBeUndefined();
  });
});
