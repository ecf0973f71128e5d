import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { profileSchema, type Run } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import { CORNER_SOURCES, unpackLines, type FeatureLine } from '@pampero/core/lines';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, kerbedStreet, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

const [E, N] = QUANTISATION.offset;
let folder: string;
let host: TestServer;
let jobId: string;
let cloudId: number;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-lines-'));
  host = await testServer();
  jobId = (await host.api.newJob('Lines')).id;
  await host.api.import(jobId, await lasBytes(fieldWithShed()));
  cloudId = (await host.api.read(jobId)).clouds[0]!.id;
  await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
});
afterAll(async () => {
  await host.stop();
  await rm(folder, { recursive: true, force: true });
});

interface Given {
  readonly key?: number;
  readonly code?: string;
  readonly isClosed?: boolean;
}
const put = (places: readonly (readonly [number, number, number?])[], { code = 'BREAK', ...more }: Given = {}) => ({
  ...{ code, ...more },
  easting: places.map(([e]) => E + e),
  northing: places.map(([, n]) => N + n),
  elevation: places.map(([, , z]) => z ?? null),
});
const draw = (lines: unknown[], remove: number[] = []) => host.api.operate(jobId, 'draw-lines', { put: lines, remove });
const ofCode = async (code: string) => (await host.api.made(jobId, 'lines')).find(({ facts }) => facts.code === code)!;
const linesOf = async (code: string): Promise<FeatureLine[]> =>
  unpackLines(new Uint8Array(await host.api.shown(jobId, (await ofCode(code)).id)));
async function fileOf(code: string, format: string, ending = format): Promise<string> {
  const path = join(folder, `${code}.${ending}`);
  await writeFile(path, await host.api.file(jobId, (await ofCode(code)).id, format));
  return path;
}
const ogr = (...args: string[]): string => execFileSync('/usr/bin/ogrinfo', args).toString();

describe('lines of the job', () => {
  test('a drawn line is under its code, with where its elevations come from and which step made it', async () => {
    const run = await draw([{ ...put([[5, 5, 20.1], [15, 5], [25, 6, 20.4]]), source: ['point', 'none', 'surface'] }]); // prettier-ignore
    expect(run.state).toBe('done');
    const [line] = await linesOf('BREAK');
    expect([...line!.easting]).toEqual([E + 5, E + 15, E + 25]);
    expect(Array.from(line!.source, (k) => CORNER_SOURCES[k])).toEqual(['point', 'none', 'surface']);
    expect(line!.entry).toBe(run.historyId);
    const { facts, name } = await ofCode('BREAK');
    expect(name).toBe('BREAK');
    expect(facts).toMatchObject({ role: 'breakline', lines: 1, vertices: 3, withElevation: 2, lowest: 20.1 });
  });

  test('another shape of a line keeps its key; undo brings the first back, redo the second', async () => {
    const [{ key }] = (await linesOf('BREAK')) as [FeatureLine];
    await draw([put([[5, 5, 20.1], [30, 5, 21]], { key })]); // prettier-ignore
    expect((await linesOf('BREAK')).map((line) => [line.key, line.easting.length])).toEqual([[key, 2]]);
    await host.api.undo(jobId);
    expect((await linesOf('BREAK')).map((line) => [line.key, line.easting.length])).toEqual([[key, 3]]);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await linesOf('BREAK'))[0]!.easting.length).toBe(2);
  });

  test('what was taken back and can no longer be done again leaves nothing behind', async () => {
    await draw([put([[1, 1, 1], [2, 2, 2]])]); // prettier-ignore
    const [{ key }] = (await linesOf('BREAK')) as [FeatureLine];
    await draw([], [key]);
    expect(await linesOf('BREAK')).toHaveLength(1);
    await host.api.undo(jobId); // the removal
    await draw([put([[3, 3, 3], [4, 4, 4]])]); // prettier-ignore
    const lines = await linesOf('BREAK');
    expect(lines).toHaveLength(3);
    expect((await ofCode('BREAK')).facts).toMatchObject({ lines: 3, vertices: 6 });
    for (let k = 0; k < 2; k++) await host.api.undo(jobId);
    expect(await linesOf('BREAK')).toHaveLength(1);
  });

  test('the page asks only for what came and went since it last asked', async () => {
    const before = (await ofCode('BREAK')).id;
    const [{ key }] = (await linesOf('BREAK')) as [FeatureLine];
    await draw([put([[7, 7, 7], [8, 8, 8]])], [key]); // prettier-ignore
    const { arrays } = unpackArrays(new Uint8Array(await host.api.shown(jobId, (await ofCode('BREAK')).id, `?since=${before}`))); // prettier-ignore
    expect([...arrays['gone']!]).toEqual([key]);
    expect(unpackLines(arrays['came'] as Uint8Array)).toHaveLength(1);
    await host.api.undo(jobId);
  });

  test('a line of a code that the list does not have puts the code on the list', async () => {
    await draw([put([[0, 0, 1], [1, 0, 1]], { code: 'ACEQUIA' })]); // prettier-ignore
    expect((await host.api.read(jobId)).codes.at(-1)).toMatchObject({ code: 'ACEQUIA', role: 'breakline' });
    await host.api.undo(jobId);
    expect((await host.api.read(jobId)).codes.some(({ code }) => code === 'ACEQUIA')).toBe(false);
  });

  test('a line moves from one code to another with its key', async () => {
    const [{ key }] = (await linesOf('BREAK')) as [FeatureLine];
    await draw([put([[5, 5, 20.1], [30, 5, 21]], { key, code: 'RIDGE' })]); // prettier-ignore
    expect(await linesOf('BREAK')).toHaveLength(0);
    expect((await linesOf('RIDGE')).map((line) => line.key)).toEqual([key]);
    await host.api.undo(jobId);
    expect(await linesOf('BREAK')).toHaveLength(1);
  });

  test.each([
    ['one corner', { ...put([[0, 0, 1]]) }, /two vertices/],
    [
      'lists of different length',
      {
        ...put([
          [0, 0, 1],
          [1, 1, 1],
        ]),
        northing: [N],
      },
      /same length/,
    ],
    [
      'water without a level',
      put(
        [
          [0, 0],
          [1, 0],
          [1, 1],
        ],
        { code: 'WATER-EDGE' },
      ),
      /level is unknown/,
    ],
    [
      'a key that is none',
      put(
        [
          [0, 0, 1],
          [1, 1, 1],
        ],
        { key: 9999 },
      ),
      /no line 9999/i,
    ],
  ])('%s is refused, and nothing is changed', async (_, line, said) => {
    const before = (await ofCode('BREAK')).id;
    const answer = await host.api.raw(`/jobs/${jobId}/operations/draw-lines`, {
      method: 'POST',
      body: JSON.stringify({ put: [line] }),
      headers: { 'content-type': 'application/json' },
    });
    const text =
      answer.status >= 400
        ? Buffer.from(answer.body).toString()
        : (await host.api.ended(jobId, answer.json() as unknown as Run)).outcome;
    expect(text).toMatch(said);
    expect((await ofCode('BREAK')).id).toBe(before);
  });
});

describe('the code list', () => {
  test('another use of a code makes the surface stale that was built with its lines', async () => {
    const lines = (await ofCode('BREAK')).id;
    const surface = await host.api.operate(jobId, 'build-surface', { clouds: [cloudId], lines: [lines] });
    expect(surface.state).toBe('done');
    const codes = (await host.api.read(jobId)).codes.map((code) => (code.code === 'BREAK' ? { ...code, role: 'soft' as const } : code)); // prettier-ignore
    const run = await host.api.operate(jobId, 'edit-codes', { codes });
    expect(run.outcome).toBe('changed: BREAK');
    expect((await ofCode('BREAK')).facts.role).toBe('soft');
    expect((await host.api.newest(jobId, 'surface')).staleBecause).toBe('BREAK has changed.');
    await host.api.undo(jobId);
    expect((await host.api.newest(jobId, 'surface')).isStale).toBe(false);
  });

  test('a code that has lines cannot be taken off the list', async () => {
    const codes = (await host.api.read(jobId)).codes.filter(({ code }) => code !== 'BREAK');
    const run = await host.api.operate(jobId, 'edit-codes', { codes });
    expect(run.state).toBe('failed');
    expect(run.outcome).toMatch(/1 lines? of code BREAK/);
  });

  test('comes in as CSV, columns by their names, what is missing as it was', async () => {
    const csv = 'Use;Code;Meaning;Opacity\nplain;HEDGE;Row of shrubs;40 %\nsoft;RIDGE;;\n';
    const run = await host.api.fromFile(jobId, 'import-codes', csv, 'codes.csv');
    expect(run.outcome).toMatch(/^2 codes\. New: HEDGE; changed: RIDGE/);
    const { codes } = await host.api.read(jobId);
    expect(codes.find(({ code }) => code === 'HEDGE')).toMatchObject({ role: 'plain', meaning: 'Row of shrubs', layer: 'HEDGE', opacity: 0.4 }); // prettier-ignore
    const list = Buffer.from((await host.api.raw(`/jobs/${jobId}/codes`)).body).toString();
    expect(list).toContain('HEDGE,Row of shrubs,plain,#0B5FA5,solid,40,HEDGE');
    expect(list).toMatch(/^RIDGE,.*,solid,100,RIDGE/m);
    expect(codes.find(({ code }) => code === 'BREAK')).toBeDefined();
    await host.api.undo(jobId);
  });

  test.each([
    ['no code column', 'name,use\nA,plain\n', /no column “code”/],
    ['a use that is none', 'code,use\nA,ditch\n', /“ditch” is no use of lines/],
    ['an opacity of nothing', 'code,opacity\nA,0\n', /opacity is 10 to 100 %/],
    ['a code twice', 'code\nA\nA\n', /listed twice/],
  ])('%s is refused with its line', async (_, csv, said) => {
    const answer = await host.api.raw(`/jobs/${jobId}/operations/import-codes/file?fileName=c.csv`, { method: 'POST', body: csv }); // prettier-ignore
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(Buffer.from(answer.body).toString()).toMatch(said);
  });
});

describe('lines in and out (held against OGR)', () => {
  const bank = [[0, 0, 20], [10, 2, 20.5], [20, 1, 21.25]] as const; // prettier-ignore
  const ring = [[40, 40, 19], [50, 40, 19], [50, 50, 19.5]] as const; // prettier-ignore

  beforeAll(async () => {
    await draw([put(bank, { code: 'BANK-TOP' }), put(ring, { code: 'BANK-TOP', isClosed: true })]);
  });

  const same = (lines: readonly FeatureLine[]): void => {
    expect(lines).toHaveLength(2);
    const open = lines.find(({ isClosed }) => !isClosed)!;
    const closed = lines.find(({ isClosed }) => isClosed)!;
    for (const [line, places] of [
      [open, bank],
      [closed, ring],
    ] as const) {
      expect(line.easting.length).toBe(places.length);
      places.forEach(([e, n, z], k) => {
        expect(line.easting[k]).toBeCloseTo(E + e, 3);
        expect(line.northing[k]).toBeCloseTo(N + n, 3);
        expect(line.elevation[k]).toBeCloseTo(z, 3);
      });
    }
  };

  test.each([
    ['dxf', 'dxf', 'dxf'],
    ['landxml', 'xml', 'landxml'],
    ['gpkg', 'gpkg', 'gpkg'],
    ['shp', 'zip', 'shp'],
    ['geojson', 'geojson', 'geojson'],
    ['csv', 'csv', 'list'],
  ])('%s there and back is the same lines under the same code', async (format, ending, read) => {
    const bytes = await readFile(await fileOf('BANK-TOP', format, ending));
    await draw([], (await linesOf('BANK-TOP')).map(({ key }) => key)); // prettier-ignore
    const run = await host.api.fromFile(jobId, 'import-lines', bytes, `lines.${ending}`, { format: read });
    expect(run.state).toBe('done');
    same(await linesOf('BANK-TOP'));
    for (let k = 0; k < 2; k++) await host.api.undo(jobId);
    same(await linesOf('BANK-TOP'));
  });

  test.each([['dxf', 'dxf'], ['gpkg', 'gpkg'], ['geojson', 'geojson']])('%s is read by OGR, corners and code', async (format, ending) => {
    const said = ogr('-al', await fileOf('BANK-TOP', format, ending));
    expect(said).toMatch(/Feature Count: 2/);
    expect(said).toMatch(/BANK-TOP/);
    expect(said).toMatch(/5512010(\.0+)? 6150002(\.0+)? 20\.5/);
  }); // prettier-ignore

  test('what OGR writes is read: a Shapefile, a GeoPackage with elevations, outlines as polygons', async () => {
    const source = join(folder, 'given.geojson');
    const coordinates = bank.map(([e, n, z]) => [E + e, N + n, z]);
    const rim = [...ring, ring[0]].map(([e, n, z]) => [E + e, N + n, z]);
    const write = (geometry: unknown) =>
      writeFile(source, JSON.stringify({ type: 'FeatureCollection', features: [{ type: 'Feature', properties: { layer: 'DITCH' }, geometry }] })); // prettier-ignore
    const convert = (to: string, driver: string): string => {
      const path = join(folder, to);
      execFileSync('/usr/bin/ogr2ogr', ['-f', driver, path, source, '-a_srs', 'EPSG:5347']);
      return path;
    };
    await write({ type: 'LineString', coordinates });
    for (const [to, driver, format] of [['ogr.gpkg', 'GPKG', 'gpkg'], ['ogr.shp', 'ESRI Shapefile', 'shp']] as const) {
      const run = await host.api.fromFile(jobId, 'import-lines', await readFile(convert(to, driver)), to, { format, code: 'DITCH' }); // prettier-ignore
      expect(run.state).toBe('done');
      const [line] = await linesOf('DITCH');
      expect(Array.from(line!.elevation)).toEqual([20, 20.5, 21.25]);
      await host.api.undo(jobId);
    } // prettier-ignore
    await write({ type: 'Polygon', coordinates: [rim] });
    await host.api.fromFile(jobId, 'import-lines', await readFile(convert('rim.gpkg', 'GPKG')), 'rim.gpkg', { format: 'gpkg' }); // prettier-ignore
    expect((await linesOf('DITCH'))[0]!.isClosed).toBe(true);
    await host.api.undo(jobId);
  });

  test.each([
    ['a text called a Shapefile', 'x.shp', 'no shapes here', /no Shapefile/],
    ['a text called a GeoPackage', 'x.gpkg', 'no tables here', /no GeoPackage/],
    ['XML that is no LandXML', 'x.xml', '<a/>', /not LandXML/],
    ['a zip that is none', 'x.zip', 'PK\x03\x04 and no more', /cannot be unpacked|no Shapefile/],
  ])('%s is refused with a reason', async (_, fileName, text, said) => {
    const format = { shp: 'shp', zip: 'shp', gpkg: 'gpkg', xml: 'landxml' }[fileName.split('.')[1]!];
    const query = `fileName=${fileName}&parameters=${encodeURIComponent(JSON.stringify({ format }))}`;
    const answer = await host.api.raw(`/jobs/${jobId}/operations/import-lines/file?${query}`, { method: 'POST', body: text }); // prettier-ignore
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(Buffer.from(answer.body).toString()).toMatch(said);
  });
});

describe('shaping', () => {
  test('a kerb top 15 cm beside and above its foot is a new line of its own code', async () => {
    await draw([put([[0, 0, 20], [30, 0, 20.3]], { code: 'KERB-FOOT' })]); // prettier-ignore
    const [{ key }] = (await linesOf('KERB-FOOT')) as [FeatureLine];
    const run = await host.api.operate(jobId, 'shape-lines', { shaping: 'offset', keys: [key], distance: -0.15, rise: '12 cm', newCode: 'KERB-TOP' }); // prettier-ignore
    expect(run.state).toBe('done');
    const [top] = await linesOf('KERB-TOP');
    expect(top!.northing[0]).toBeCloseTo(N + 0.15, 9);
    expect([...top!.elevation].map((z) => z.toFixed(6))).toEqual(['20.120000', '20.420000']);
  });

  test('draped on a surface, and draped again nothing changes', async () => {
    const surfaceId = (await host.api.newest(jobId, 'surface')).id;
    await draw([put([[10, 10], [45, 30]], { code: 'DITCH' })]); // prettier-ignore
    const drape = async (): Promise<FeatureLine> => {
      const codes = [(await ofCode('DITCH')).id];
      expect((await host.api.operate(jobId, 'shape-lines', { shaping: 'drape', codes, surfaceId })).state).toBe('done');
      return (await linesOf('DITCH'))[0]!;
    };
    const once = await drape();
    const twice = await drape();
    expect(once.easting.length).toBeGreaterThan(20);
    expect(once.elevation.some(Number.isNaN)).toBe(false);
    expect(twice.easting.length).toBe(once.easting.length);
    for (let k = 0; k < once.easting.length; k++) expect(twice.elevation[k]).toBeCloseTo(once.elevation[k]!, 6);
  });

  test('ends of one code are joined into one line', async () => {
    const pieces = [[0, 10], [10.2, 20], [20.1, 30]].map(([from, to]) => put([[from!, 55, 20], [to!, 55, 20]], { code: 'FENCE' })); // prettier-ignore
    await draw(pieces);
    await host.api.operate(jobId, 'shape-lines', { shaping: 'join', codes: [(await ofCode('FENCE')).id], gap: 0.3 });
    const lines = await linesOf('FENCE');
    expect(lines).toHaveLength(1);
    expect(lines[0]!.easting.length).toBe(4);
  });

  test('what cannot be done is said, and the lines stay', async () => {
    const codes = [(await ofCode('FENCE')).id];
    const far = await host.api.operate(jobId, 'shape-lines', { shaping: 'join', codes, gap: 0.01 });
    expect(far).toMatchObject({ state: 'failed' });
    expect(far.outcome).toMatch(/No two ends/);
    const none = await host.api.operate(jobId, 'shape-lines', { shaping: 'drape', codes });
    expect(none.outcome).toMatch(/No surface was chosen/);
    expect((await host.api.operate(jobId, 'shape-lines', { shaping: 'turn' })).outcome).toMatch(/No lines were chosen/);
  });
});

describe('breaks found in the points', () => {
  let street: string;
  let streetCloud: number;

  beforeAll(async () => {
    street = (await host.api.newJob('Street')).id;
    await host.api.import(street, await lasBytes(kerbedStreet()));
    streetCloud = (await host.api.read(street)).clouds[0]!.id;
  });

  const guide = [[E + 2, N + 10.4], [E + 38, N + 9.7]]; // prettier-ignore
  const places = async (code: string): Promise<FeatureLine> => {
    const set = (await host.api.made(street, 'lines')).find(({ facts }) => facts.code === code)!;
    return unpackLines(new Uint8Array(await host.api.shown(street, set.id)))[0]!;
  };

  test('a kerb of 12 cm along two clicks: foot and top under their codes, with what bears them out', async () => {
    const run = await host.api.operate(street, 'follow-break', { clouds: [streetCloud], guide });
    expect(run.state).toBe('done');
    const [foot, top] = [await places('KERB-FOOT'), await places('KERB-TOP')];
    for (const [line, level] of [[foot, 20], [top, 20.12]] as const) {
      for (const n of line.northing) expect(Math.abs(n - N - 10)).toBeLessThan(0.2);
      for (const z of line.elevation) expect(Math.abs(z - level)).toBeLessThan(0.01);
    } // prettier-ignore
    const { history } = await host.api.read(street);
    const told = history.entries.find(({ operation }) => operation === 'follow-break')!.figures;
    expect(told.find(({ label }) => label === 'Profiles that show it')!.value).toBe('100 %');
    await host.api.undo(street);
    expect(await host.api.made(street, 'lines')).toEqual([]);
  });

  test('a guide where there is nothing, and one off the cloud, are told apart', async () => {
    const level = await host.api.operate(street, 'follow-break', { clouds: [streetCloud], guide: [[E + 2, N + 4], [E + 38, N + 4]] }); // prettier-ignore
    expect(level.outcome).toMatch(/No profile along the guide shows such a break/);
    const off = await host.api.operate(street, 'follow-break', { clouds: [streetCloud], guide: [[E + 900, N + 900], [E + 990, N + 900]] }); // prettier-ignore
    expect(off.outcome).toMatch(/No points of the chosen classes lie there/);
  });

  test('proposals: accepted ones become lines, refused ones do not; judged ones are not judged again; undo opens them', async () => {
    const found = await host.api.operate(street, 'find-breaks', { clouds: [streetCloud] });
    const id = found.productId!;
    const set = () => host.api.newest(street, 'proposals');
    expect((await set()).facts).toMatchObject({ kind: 'kerb', proposed: 1, accepted: 0 });
    const file = JSON.parse((await host.api.file(street, id, 'geojson')).toString()) as {
      features: { properties: object }[];
    };
    expect(file.features.map(({ properties }) => properties)).toMatchObject([{ strand: 'foot' }, { strand: 'top' }]);
    const run = await host.api.operate(street, 'judge-proposals', { proposalsId: id, accept: [0] });
    expect(run.outcome).toBe('1 proposal accepted, 0 refused, 0 left');
    expect((await host.api.made(street, 'lines')).map(({ name }) => name).sort()).toEqual(['KERB-FOOT', 'KERB-TOP']);
    const again = await host.api.operate(street, 'judge-proposals', { proposalsId: (await set()).id, refuse: [0] });
    expect(again.outcome).toMatch(/does not wait to be judged/);
    await host.api.undo(street);
    expect((await set()).facts.accepted).toBe(0);
    expect(await host.api.made(street, 'lines')).toEqual([]);
  });

  test('the kerb held in a surface: two clean edges where the bare points make teeth', async () => {
    await host.api.operate(street, 'follow-break', { clouds: [streetCloud], guide });
    const lines = (await host.api.made(street, 'lines')).map(({ id }) => id);
    const build = { clouds: [streetCloud], thinCell: 0 };
    const bare = await host.api.operate(street, 'build-surface', build);
    const held = await host.api.operate(street, 'build-surface', { ...build, lines, lineOffset: 0.3 });
    expect([bare.state, held.state]).toEqual(['done', 'done']);
    // Beside the kerb, 12 cm to either side, the surface lies on the road or on the verge: no tooth of the other reaches there.
    const off = async (id: number, shift: number, level: number): Promise<number> => {
      const line = [[E + 5, N + 10 + shift], [E + 35, N + 10 + shift]]; // prettier-ignore
      const run = await host.api.operate(street, 'draw-profile', { surfaceIds: [id], line });
      const profile = profileSchema.parse(JSON.parse((await host.api.shown(street, run.productId)).toString()));
      const heights = profile.surfaces[0]!.elevation.filter((z): z is number => z !== null);
      await host.api.undo(street);
      return Math.sqrt(heights.reduce((sum, z) => sum + (z - level) ** 2, 0) / heights.length);
    };
    const [teeth, clean] = [await off(bare.productId!, 0.12, 20.12), await off(held.productId!, 0.12, 20.12)];
    expect(clean).toBeLessThan(0.01);
    expect(teeth).toBeGreaterThan(2 * clean);
  });
});

describe('what surfaces say of lines', () => {
  let site: string;
  let ground: number;

  beforeAll(async () => {
    site = (await host.api.newJob('Site')).id;
    await host.api.import(site, await lasBytes(kerbedStreet()));
    const cloud = (await host.api.read(site)).clouds[0]!.id;
    ground = (await host.api.operate(site, 'build-surface', { clouds: [cloud], thinCell: 0 })).productId!;
  });

  test('cross sections: end areas and the exact volume against a level design agree with the hand: 0.5 over 6 by 30 is 90', async () => {
    const rows = Array.from({ length: 5 }, () => Array.from({ length: 9 }, () => '19.5').join(' '));
    const grid = `ncols 9\nnrows 5\nxllcorner ${E - 2.5}\nyllcorner ${N - 2.5}\ncellsize 5\nNODATA_value -9999\n${rows.join('\n')}\n`;
    const design = (await host.api.fromFile(site, 'import-surface', grid, 'design.asc')).productId!;
    await host.api.operate(site, 'draw-lines', { put: [put([[5, 5], [35, 5]], { code: 'ROAD-CENTRE' })] }); // prettier-ignore
    const along = (await host.api.made(site, 'lines'))[0]!.id;
    const run = await host.api.operate(site, 'cut-sections', { along, surfaceId: ground, otherId: design, step: 5, left: 3, right: 3 }); // prettier-ignore
    expect(run.state).toBe('done');
    const { facts } = await host.api.newest(site, 'sections');
    expect(facts.count).toBe(7);
    const of = (label: string): number => Number(facts.figures.find((figure) => figure.label === label)!.value);
    expect(of('Cut, end areas')).toBeCloseTo(90, 0);
    expect(of('Cut, exact')).toBeCloseTo(90, 0);
    expect(of('Fill, exact')).toBe(0);
    const csv = (await host.api.file(site, run.productId, 'csv')).toString().split('\n');
    expect(csv[0]).toBe('station,surface,offset,elevation,easting,northing,cut area,fill area');
    const pdf = join(folder, 'sections.pdf');
    await writeFile(pdf, await host.api.file(site, run.productId, 'pdf'));
    expect((await readFile(pdf)).subarray(0, 5).toString()).toBe('%PDF-');
  });

  test('a line moved makes its sections stale', async () => {
    const along = (await host.api.made(site, 'lines'))[0]!;
    const [line] = unpackLines(new Uint8Array(await host.api.shown(site, along.id)));
    await host.api.operate(site, 'draw-lines', { put: [put([[5, 6], [35, 6]], { code: 'ROAD-CENTRE', key: line!.key })] }); // prettier-ignore
    expect((await host.api.newest(site, 'sections')).staleBecause).toBe('ROAD-CENTRE has changed.');
    await host.api.rebuild(site);
    expect((await host.api.newest(site, 'sections')).isStale).toBe(false);
  });

  test('channels of a surface run down it; sinks are listed', async () => {
    const run = await host.api.operate(site, 'find-channels', { surfaceId: ground, cell: 0.5, catchment: 100 });
    expect(run.state).toBe('done');
    const set = (await host.api.made(site, 'lines')).find(({ name }) => name === 'CHANNEL')!;
    for (const { elevation } of unpackLines(new Uint8Array(await host.api.shown(site, set.id))))
      for (let k = 1; k < elevation.length; k++) expect(elevation[k]).toBeLessThanOrEqual(elevation[k - 1]!);
  });

  test('without water there are no edges of it, and that is said', async () => {
    const cloud = (await host.api.read(site)).clouds[0]!.id;
    const run = await host.api.operate(site, 'find-water-edges', { clouds: [cloud] });
    expect(run.outcome).toMatch(/no points of class 9, water/);
  });
});
