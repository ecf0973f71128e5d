import { createHash } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { strFromU8, unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

let host: TestServer;
let jobId: string;
let cloudId: number;
let surfaceId: number;
const NASTY = '../../=HYPERLINK("x") <a>&';

beforeAll(async () => {
  host = await testServer();
  jobId = (await host.api.newJob(NASTY)).id;
  cloudId = (await host.api.import(jobId, await lasBytes(fieldWithShed()))).productId!;
  await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
  surfaceId = (await host.api.operate(jobId, 'build-surface', { clouds: [cloudId], name: 'Ground <1>' })).productId!;
});
afterAll(() => host.stop());

async function handedOver(
  body: unknown,
): Promise<{ status: number; body: Uint8Array; files: Record<string, Uint8Array> }> {
  const answer = await host.api.raw(`/jobs/${jobId}/hand-over`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  return { status: answer.status, body: answer.body, files: answer.status === 200 ? unzipSync(answer.body) : {} };
}

const items = () => [
  { kind: 'product', id: surfaceId, format: 'landxml' },
  { kind: 'product', id: surfaceId, format: 'ply' },
  { kind: 'cloud', id: cloudId, format: 'laz', classes: [2] },
  { kind: 'report', report: { parts: ['surfaces'] } },
  { kind: 'view', view: { surfaceId } },
];

describe('a package to hand over', () => {
  test('holds what was chosen, whole, with sums that another program agrees with (sha256sum)', async () => {
    const { status, files } = await handedOver({ items: items(), note: 'For the office.' });
    expect(status).toBe(200);
    const names = Object.keys(files);
    expect(names).toHaveLength(8);
    expect(names).toEqual(expect.arrayContaining(['README.txt', 'metadata.xml', 'SHA256SUMS.txt']));
    for (const name of names) expect(name, 'no way out of the folder').not.toMatch(/[\\/:*?"<>|]|^\./);
    const sums = strFromU8(files['SHA256SUMS.txt']!).trim().split('\n');
    expect(sums).toHaveLength(7);
    for (const line of sums) {
      const [sum, name] = [line.slice(0, 64), line.slice(66)];
      expect(createHash('sha256').update(files[name]!).digest('hex'), name).toBe(sum);
    }
    const [first] = sums;
    const theirs = execFileSync('sha256sum', { input: Buffer.from(files[first!.slice(66)]!) }).toString();
    expect(theirs.slice(0, 64)).toBe(first!.slice(0, 64));
    const readme = strFromU8(files['README.txt']!);
    expect(readme).toContain('For the office.');
    expect(readme).toContain('EPSG:5347');
    expect(readme).toMatch(/from cloud \d+ as of entry \d+/);
    expect(readme).toContain('  2  Ground');
  });

  test('describes itself by ISO 19115 fields in well-formed XML, with the land’s place on the globe (PROJ’s cs2cs)', async () => {
    const { files } = await handedOver({ items: [] });
    const xml = strFromU8(files['metadata.xml']!);
    expect(XMLValidator.validate(xml)).toBe(true);
    const parsed = new XMLParser().parse(xml) as Record<string, Record<string, unknown>>;
    expect(JSON.stringify(parsed)).toContain('HYPERLINK');
    const bound = (name: string): number => Number(new RegExp(`${name}>\\s*<gco:Decimal>([-\\d.]+)`).exec(xml)![1]);
    const [south, west] =
      execFileSync('cs2cs', ['-f', '%.7f', 'EPSG:5347', 'EPSG:4326'], { input: '6150000 5512000\n' }) // prettier-ignore
        .toString()
        .trim()
        .split(/\s+/)
        .map(Number) as [number, number];
    expect(bound('westBoundLongitude')).toBeCloseTo(west, 4);
    expect(bound('southBoundLatitude')).toBeCloseTo(south, 4);
    expect(bound('eastBoundLongitude')).toBeGreaterThan(west);
  });

  test('names what could not be written, with the reason, and the rest is there', async () => {
    const { status, files } = await handedOver({
      items: [
        { kind: 'product', id: 999, format: 'dxf' },
        { kind: 'product', id: surfaceId, format: 'mp3' },
        ...items().slice(1, 2),
      ],
    });
    expect(status).toBe(200);
    expect(Object.keys(files).some((name) => name.endsWith('.ply'))).toBe(true);
    const readme = strFromU8(files['README.txt']!);
    expect(readme).toContain('Not in this package');
    expect(readme).toMatch(/product 999, dxf\s+There is no product 999/);
    expect(readme).toMatch(/mp3/);
  });

  test('two files of a name get two names, and the pattern is kept to', async () => {
    const twice = [items()[1], items()[1]];
    const { files } = await handedOver({ items: twice, pattern: '{kind} {epsg}' });
    expect(Object.keys(files)).toEqual(expect.arrayContaining(['Surface EPSG 5347.ply', 'Surface EPSG 5347 (2).ply']));
  });

  test.each([
    ['an unknown part of the pattern', { items: [], pattern: '{password}' }],
    ['an empty pattern', { items: [], pattern: '' }],
    ['a kind that is none', { items: [{ kind: 'folder', id: 1 }] }],
    ['a form of points that is none', { items: [{ kind: 'cloud', id: 1, format: 'doc' }] }],
  ])('%s is refused', async (_what, body) => expect((await handedOver(body)).status).toBe(400));
});
