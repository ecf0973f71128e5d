import { execFile } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { markdownBlocks } from './report/markdown-blocks.js';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

const call = promisify(execFile);
let host: TestServer;
let folder: string;
let jobId: string;
let surfaceId: number;
const NASTY = 'Reach <b>3</b> & "more" =HYPERLINK(1)';

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-report-'));
  host = await testServer();
  jobId = (await host.api.newJob(NASTY)).id;
  const cloud = (await host.api.import(jobId, await lasBytes(fieldWithShed()))).productId!;
  const checks = [[10, 10], [50, 12], [12, 48], [50, 50], [15, 30]] // prettier-ignore
    .map(([e, n], k) => `C${k},${6_150_000 + n!},${5_512_000 + e!},${(30.005 + e! * 0.02 + n! * 0.01).toFixed(3)},GND`);
  await host.api.fromFile(jobId, 'import-control', checks.join('\n'), 'checks.csv', { role: 'check' });
  await host.api.operate(jobId, 'find-ground', { clouds: [cloud], cell: 0.7 });
  surfaceId = (await host.api.operate(jobId, 'build-surface', { clouds: [cloud] })).productId!;
  await host.api.operate(jobId, 'draw-contours', { surfaceId, interval: 0.2 });
  await host.api.operate(jobId, 'state-accuracy', { surfaceId, excluded: 'C4 on a manhole' });
  await host.api.operate(jobId, 'measure-volume', { surfaceId, against: 'level', level: 30.5 });
});
afterAll(async () => {
  await host.stop();
  await rm(folder, { recursive: true, force: true });
});

async function report(options: Record<string, unknown>): Promise<{ status: number; body: Buffer }> {
  const { status, body } = await host.api.raw(`/jobs/${jobId}/report`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(options),
  });
  return { status, body: Buffer.from(body) };
}

/** The text of a PDF as another program reads it (poppler's pdftotext). */
async function textOf(pdf: Buffer): Promise<string> {
  const path = join(folder, 'report.pdf');
  await writeFile(path, pdf);
  return (await call('pdftotext', ['-layout', path, '-'])).stdout;
}

describe('the report', () => {
  test('says as PDF every figure that the API says', async () => {
    const { status, body } = await report({
      surveyor: 'R. Quiroga',
      words: 'Flown after **the flood**.\n\n- crest\n- culvert',
    });
    expect(status).toBe(200);
    const text = (await textOf(body)).replace(/\s+/g, ' ');
    const [surface, volume, statement] = [
      await host.api.newest(jobId, 'surface'),
      await host.api.newest(jobId, 'volume'),
      await host.api.newest(jobId, 'accuracy'),
    ];
    const grouped = (value: number, decimals = 0): string =>
      value.toFixed(decimals).replace(/\B(?=(\d{3})+(?!\d))(?<!\.\d*)/g, ' ');
    for (const figure of [
      grouped(surface.facts.facets),
      `${surface.facts.lowest.toFixed(2)} m`,
      `${surface.facts.highest.toFixed(2)} m`,
      `${grouped(volume.facts.cut, 1)} m³`,
      `${grouped(volume.facts.fill, 1)} m³`,
      ...statement.facts.figures.map(({ value }) => String(value)).filter((value) => /\d m$/.test(value)),
      'Flown after the flood.',
      'R. Quiroga, date',
      'Cell size: 0.7 m',
      'C4 was left out: on a manhole',
      'EPSG:5347',
      'page 1 of',
    ])
      expect(text).toContain(figure);
    // The usual settings are not told.
    expect(text).not.toContain('Widest building');
  });

  test('is one HTML file with nothing from outside, and no text of the job is a tag', async () => {
    const { body } = await report({
      format: 'html',
      words: '<script>alert(1)</script>\n\n# Heading\n\n[a](javascript:alert(2))',
    });
    const html = body.toString();
    expect(html).toContain("default-src 'none'");
    expect(html).toContain('Reach &lt;b&gt;3&lt;/b&gt; &amp; &quot;more&quot;');
    expect(html).not.toMatch(/<script|javascript:|<b>/);
    expect(html).not.toMatch(/(src|href)="(?!data:)/);
    expect(html).toContain('<h3>Heading</h3>');
    expect(html.match(/<img /g)!.length).toBeGreaterThanOrEqual(2);
  });

  test('has the parts that were chosen alone, a logo and the surveyor’s pictures', async () => {
    const pixel = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
    const { body } = await report({
      format: 'html',
      parts: ['volumes', 'pictures'],
      logo: pixel,
      pictures: [{ caption: 'The crest from the east', image: pixel }],
    });
    const headings = [...body.toString().matchAll(/<h2>([^<]+)</g)].map((match) => match[1]);
    expect(headings).toEqual(['Volumes', 'Pictures']);
    expect(body.toString()).toContain('The crest from the east');
    expect(body.toString()).toContain('class="logo"');
    expect((await report({ logo: pixel })).status).toBe(200);
  });

  test('says what is stale and which gates were gone through', async () => {
    const { clouds } = await host.api.read(jobId);
    await host.api.operate(jobId, 'find-objects', { clouds: [clouds[0]!.id] });
    const text = (await textOf((await report({})).body)).replace(/\s+/g, ' ');
    expect(text).toMatch(/Ground is stale\. .* ha(s|ve) changed/);
    expect(text).toContain('(stale)');
  });

  test.each<[string, Record<string, unknown>, number]>([
    ['a part that is none', { parts: ['everything'] }, 400],
    ['a logo that is no picture', { logo: 'bm8gcGljdHVyZQ==' }, 400],
    ['a picture cut short', { pictures: [{ caption: 'x', image: 'iVBORw0KGgoAAAA' }] }, 422],
    ['a form that is none', { format: 'doc' }, 400],
    ['too many words', { words: 'a'.repeat(20_001) }, 400],
  ])('%s is refused', async (_what, options, expected) => {
    const { status, body } = await report(options);
    expect(status, body.toString('utf8', 0, 300)).toBe(expected);
  });

  test('of an empty job is a page', async () => {
    const { id } = await host.api.newJob('Empty');
    const { status } = await host.api.raw(`/jobs/${id}/report`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{}',
    });
    expect(status).toBe(200);
  });
});

describe('the surveyor’s words (CommonMark 0.31)', () => {
  test('become headings, paragraphs and lists of plain text', () => {
    expect(markdownBlocks('# One *two*\n\nA **b** `c` [d](http://e) & <i>f</i>.\n\n1. x\n2. y')).toEqual([
      { kind: 'text', text: 'One two', isHeading: true },
      { kind: 'text', text: 'A b c d & f.' },
      { kind: 'list', items: ['x', 'y'] },
    ]);
    expect(markdownBlocks('5 < 6 && "x"')).toEqual([{ kind: 'text', text: '5 < 6 && "x"' }]);
  });
});
