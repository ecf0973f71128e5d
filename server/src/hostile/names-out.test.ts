import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formatsOf, type Product } from '@pampero/contract';
import { XMLValidator } from 'fast-xml-parser';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from '../server.fixture.js';

/*
 * Names that mean something else in the files they go into: formulas (OWASP, "CSV injection"), markup, SQL, paths, headers. They have to
 * leave as names.
 */
const NAMES = [
  '=HYPERLINK("http://evil.example","click")',
  "+1+cmd|' /C calc'!A0",
  '-2+3',
  '@SUM(A1:A9)',
  '<script>alert(1)</script>',
  '"><img src=x onerror=alert(1)>',
  "Robert'); DROP TABLE jobs;--",
  ']]><!DOCTYPE x [<!ENTITY y SYSTEM "file:///etc/passwd">]>&y;',
  '../../../../etc/passwd',
  '..\\..\\windows\\win.ini',
  'con',
  'x'.repeat(120),
  'año 日本 😀 fdp.exe',
  '%0d%0aSet-Cookie: a=1; ${7*7} {{7*7}}',
];
const REFUSED = ['a\u0000b', 'a\nb', '0\r\nSECTION', 'a\u0007', 'tab\u2028x', 'survey\u202Efdp.exe', 'a\u2066b'];

let host: TestServer;
let folder: string;
beforeAll(async () => {
  host = await testServer();
  folder = mkdtempSync(join(tmpdir(), 'pampero-names-'));
});
afterAll(async () => {
  await host.stop();
  rmSync(folder, { recursive: true });
});

/** One of everything, all of it under the name. */
async function everything(name: string): Promise<{ jobId: string; cloudId: number; products: Product[] }> {
  const jobId = (await host.api.newJob(name)).id;
  await host.api.import(jobId, await lasBytes(fieldWithShed()), 'a.las', { name });
  const cloudId = (await host.api.read(jobId)).clouds[0]!.id;
  const make = async (operation: string, parameters: Record<string, unknown>): Promise<number> => {
    const run = await host.api.operate(jobId, operation, { name, ...parameters });
    expect(run.state, `${operation}: ${run.outcome}`).toBe('done');
    return run.productId!;
  };
  const surfaceId = await make('build-surface', { clouds: [cloudId], classes: [1], maximumEdge: 20 });
  await make('draw-contours', { on: 'surface', surfaceId, interval: 0.5 });
  await make('make-grid', { method: 'tin', surfaceId, cell: 2 });
  await make('measure-volume', { surfaceId, against: 'level', level: 30 });
  await make('draw-profile', {
    clouds: [cloudId],

    surfaceIds: [surfaceId],
    line: [
      [5_512_010, 6_150_010],
      [5_512_050, 6_150_050],
    ],
    depth: 1,
  });
  const control = Array.from(
    { length: 4 },
    (_, k) =>
      `"${name.replaceAll('"', '""').slice(0, 30)}${k}",${6_150_010 + k * 8},${5_512_010 + k * 8},30.4,"${name.replaceAll('"', '').replaceAll(',', '').slice(0, 30)}"`,
  );
  // Some names cannot stand in a list with commas: those are refused in words.
  const listed = await host.api.raw(
    `/jobs/${jobId}/operations/import-control/file?fileName=c.csv&parameters=${encodeURIComponent('{"order":"PNEZD","role":"check"}')}`,
    { method: 'POST', body: control.join('\n'), headers: { 'content-type': 'application/octet-stream' } },
  );
  expect([202, 422]).toContain(listed.status);
  const lines = JSON.stringify({
    type: 'Feature',
    properties: { layer: name },
    geometry: {
      type: 'LineString',
      coordinates: [
        [5_512_010, 6_150_010, 30],
        [5_512_020, 6_150_020, 30],
      ],
    },
  });
  expect(
    (await host.api.fromFile(jobId, 'import-lines', lines, 'l.geojson', { format: 'geojson', role: 'breakline' }))
      .state,
  ).toBe('done');
  return { jobId, cloudId, products: (await host.api.read(jobId)).products };
}

/** Cells of a CSV text, RFC 4180. */
function cellsOf(text: string): string[] {
  return [...text.matchAll(/("(?:[^"]|"")*"|[^,\n]*)(?:,|\n|$)/g)].map(([, cell]) =>
    cell!.startsWith('"') ? cell!.slice(1, -1).replaceAll('""', '"') : cell!,
  );
}

const FIGURE = /^[-+]?\d+(?:\.\d+)?(?:e[-+]?\d+)?$/i;

/** Looks at a file as what would read it, and says what is wrong. */
function looked(bytes: Buffer, ending: string): string | undefined {
  const text = bytes.toString('utf8');
  switch (ending) {
    case '.csv': {
      const formula = cellsOf(text).find((cell) => /^[=+\-@\t\r]/.test(cell) && !FIGURE.test(cell));
      return formula && `a formula: ${formula}`;
    }
    case '.xml': {
      const verdict = XMLValidator.validate(text);
      return verdict === true
        ? /<!(?:DOCTYPE|ENTITY)/.test(text)
          ? 'a declaration got in'
          : undefined
        : verdict.err.msg;
    }
    case '.geojson':
      JSON.parse(text);
      return undefined;
    case '.dxf': {
      const codes = text.split('\n').filter((_, k) => k % 2 === 0);
      const odd = codes.find((code) => code !== '' && !/^-?\d+$/.test(code.trim()));
      return odd && `a group code ${odd}`;
    }
    case '.pdf':
      return /\/(?:JavaScript|JS|Launch|URI)\b/.test(bytes.toString('latin1')) ? 'an action' : undefined;
    case '.zip': {
      const odd = Object.keys(unzipSync(bytes)).find((name) => /[\\/]|^\.\.?$/.test(name));
      return odd && `an entry ${odd}`;
    }
    case '.gpkg': {
      const path = join(folder, 'a.gpkg');
      writeFileSync(path, bytes);
      const said = execFileSync('ogrinfo', ['-so', '-al', path], { encoding: 'utf8' });
      return /Feature Count: [1-9]/.test(said) ? undefined : said;
    }
    default:
      return undefined;
  }
}

describe.each(NAMES)('the name %j', (name) => {
  test('goes through every export as a name, under a file name that is one', { timeout: 120_000 }, async () => {
    const { jobId, cloudId, products } = await everything(name);
    expect(new Set(products.map(({ kind }) => kind)).size).toBeGreaterThanOrEqual(6);
    const files = [
      ...products.flatMap((product) =>
        // There is no picture to lie over the surface; the names in it are those of the plain one.
        formatsOf(product)
          .filter(({ id }) => id !== 'glb-picture')
          .map(({ id, ending }) => ({ path: `products/${product.id}/file?format=${id}`, ending })),
      ),
      ...['las', 'laz', 'e57', 'ply', 'csv'].map((format) => ({
        path: `clouds/${cloudId}/points?format=${format}`,
        ending: `.${format}`,
      })),
      { path: 'file', ending: '.pampero' },
    ];
    for (const { path, ending } of files) {
      const response = await fetch(`${host.server.url}/api/jobs/${jobId}/${path}`);
      const bytes = Buffer.from(await response.arrayBuffer());
      expect(response.status, `${path}: ${bytes.toString('utf8', 0, 300)}`).toBe(200);
      const disposition = response.headers.get('content-disposition')!;
      const fileName = decodeURIComponent(
        /filename\*=UTF-8''([^;]+)/.exec(disposition)?.[1] ??
          /filename=(?:"([^"]*)"|([^;]+))/
            .exec(disposition)!
            .slice(1)
            .find((of) => of !== undefined)!,
      );
      // eslint-disable-next-line no-control-regex -- control characters are among what must not be there
      expect(fileName, path).not.toMatch(/[\\/:*?"<>|\x00-\x1f\u202a-\u202e]|^\.|^(?:con|nul)(?:\.|$)/i);
      expect(fileName.endsWith(ending) || ending === '.pampero', `${fileName} ${ending}`).toBe(true);
      expect(response.headers.get('set-cookie')).toBeNull();
      expect(looked(bytes, ending), path).toBeUndefined();
    }
    // It is still what was typed, where it is told.
    const { job, clouds } = await host.api.read(jobId);
    expect([job.name, clouds[0]!.name]).toEqual([name.trim(), name.trim()]);
    await host.api.call('removeJob', `/jobs/${jobId}`);
  });
});

test('names with line breaks and control characters are refused, and it is said why', async () => {
  const { id: jobId } = await host.api.newJob('Plain');
  const send = (path: string, body: unknown): ReturnType<typeof host.api.raw> =>
    host.api.raw(path, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });
  for (const name of REFUSED) {
    for (const [path, body] of [
      ['/jobs', { name }],
      [`/jobs/${jobId}/operations/build-surface`, { name, clouds: [1] }],
      [`/jobs/${jobId}/operations/edit-points`, { spotsId: 1, changes: [{ key: 1, code: name }] }],
    ] as const) {
      const answer = await send(path, body);
      expect(answer.status, `${path} ${JSON.stringify(name)}`).toBe(400);
    }
    const classes = await send(`/jobs/${jobId}/operations/edit-classes`, {
      classes: [{ code: 70, name, colour: '#112233' }],
    });
    expect(classes.status).toBe(400);
  }
  for (const name of ['a\u0000b', 'a\u0007'])
    expect((await send(`/jobs/${jobId}/pins`, { kind: 'note', name, place: [0, 0, 0] })).status).toBe(400);
  const list = await host.api.raw(
    `/jobs/${jobId}/operations/import-control/file?fileName=c.csv&parameters=${encodeURIComponent('{"order":"PNEZD"}')}`,
    { method: 'POST', body: Buffer.from('P1,1,2,3,a\u0000b'), headers: { 'content-type': 'application/octet-stream' } },
  );
  expect(list.json()).toMatchObject({
    status: 422,
    detail: expect.stringMatching(/line 1: The line holds bytes that are no text/),
  });
});
