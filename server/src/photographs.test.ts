import { CORNER, farm, FRAME_CAMERA, frameCamera, flyLidar, packFrames, renderOrthophoto, type Frame, type PaintedLand } from '@pampero/demo'; // prettier-ignore
import { slicePoints, type PointBatch } from '@pampero/core/cloud';
import { axesOf, omegaPhiKappa } from '@pampero/core/photographs';
import { toDegrees, toRadians } from '@pampero/core/strips';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { distanceTo } from './passes/photograph-site.js';
import { lasBytes, testServer, type TestServer } from './server.fixture.js';

/**
 * A corner of the demo's farm, photographed along two lines by a camera that is never quite level: the colour that a point should have
 * is known, since the photographs were made from it.
 */
const EXTENT = { east: 150, north: 130 };
let host: TestServer;
let jobId: string;
let cloudId: number;
let points: PointBatch;
let land: PaintedLand;
let frames: Frame[];
let zip: Uint8Array;

beforeAll(async () => {
  host = await testServer();
  const whole = farm(1853);
  const scene = {
    ...whole,
    extent: EXTENT,
    // The yard and some of its trees, moved to where the photographs are.
    objects: {
      ...whole.objects,
      buildings: whole.objects.buildings.map((each) => ({ ...each, east: each.east - 110, north: each.north - 250 })),
      trees: whole.objects.trees
        .filter(({ east, north }) => east > 375 && east < 450 && north > 75 && north < 150)
        .map((each) => ({ ...each, east: each.east - 350, north: each.north - 5 })),
      rods: [],
      boxes: [],
    },
    flight: {
      ...whole.flight,
      strips: [
        { from: [-10, 35] as [number, number], to: [160, 35] as [number, number] },
        { from: [160, 100] as [number, number], to: [-10, 100] as [number, number] },
      ],
    },
  };
  const flown = flyLidar(scene, 1852);
  points = slicePoints(flown, 0, flown.count);
  land = { ...renderOrthophoto(scene, { pixel: 0.2, shift: [0, 0], leans: false }), east: CORNER.easting, north: CORNER.northing }; // prettier-ignore
  frames = [0, 1].flatMap((line) =>
    [0, 1, 2, 3].map((k): Frame => {
      const turn = line === 0 ? 90 : 270;
      const [roll, pitch, heading] = [3 - 2 * k, 1.5 * k - 2, turn + 5 - 3 * k].map(toRadians) as [number, number, number]; // prettier-ignore
      return {
        fileName: `frame-${line}${k}.jpg`,
        pose: {
          east: CORNER.easting + (line === 0 ? k : 3 - k) * 50,
          north: CORNER.northing + 35 + 60 * line,
          up: 150 + k,
          axes: axesOf('platform', roll, pitch, heading),
        },
        light: [0.8, 1.15, 0.95, 1.1][k]!,
      };
    }),
  );
  zip = await packFrames(land, frames);
  jobId = (await host.api.newJob('Photographs')).id;
  await host.api.import(jobId, await lasBytes(points));
  cloudId = (await host.api.read(jobId)).clouds[0]!.id;
}, 120_000);
afterAll(() => host.stop());

describe('how far away what a photograph shows is', () => {
  const box = { min: [0, 0, 90], max: [300, 400, 110] } as const;
  const from = (east: number, north: number, up: number, pitch: number): number =>
    distanceTo(box, { east, north, up, axes: axesOf('camera-axis', 0, toRadians(pitch), 0) });
  test('down to the land along the axis; of one that looks level the nearest, and among the points a part of the cloud', () => {
    expect(from(100, 100, 220, -90)).toBeCloseTo(120, 9);
    expect(from(100, 100, 220, -45)).toBeCloseTo(120 * Math.SQRT2, 9);
    expect(from(100, -200, 100, 0)).toBeCloseTo(200, 9);
    const size = Math.hypot(300, 400, 20);
    expect(from(100, 100, 100, 0)).toBeCloseTo(size / 8, 9);
    expect(from(100, 100, 100.5, -90)).toBeCloseTo(size / 50, 9);
  });
});

const CAMERA = { ...FRAME_CAMERA };

/** The list of the frames, written another way. */
function packedAs(list: string, more: Record<string, Uint8Array> = {}): Uint8Array {
  const { 'photographs.csv': _, ...photographs } = unzipSync(zip);
  return zipSync({ ...photographs, ...more, 'list.csv': strToU8(list) }, { level: 0 });
}

async function bring(bytes: Uint8Array, given: Record<string, unknown> = {}): Promise<number> {
  const run = await host.api.fromFile(jobId, 'import-photographs', bytes, 'frames.zip', { ...CAMERA, ...given });
  expect(run.state, run.outcome).toBe('done');
  return run.productId!;
}

/** Easting, northing, elevation, red, green, blue of each point as they leave. */
async function written(): Promise<{ rows: number[][]; hasColour: boolean }> {
  const { body } = await host.api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?format=csv`);
  const [head, ...lines] = Buffer.from(body).toString().trim().split('\n');
  const titles = head!.split(',').map((title) => title.trim().toLowerCase());
  const wanted = ['easting', 'northing', 'elevation', 'red', 'green', 'blue'].map((name) => titles.indexOf(name));
  return {
    hasColour: wanted[3]! >= 0,
    rows: lines.map((line) => {
      const cells = line.split(',');
      return wanted.map((at) => Number(cells[at]));
    }),
  };
}

/** How far colours are from those of the land, for points that lie on what is seen from above; 8 bits. */
function errors(rows: readonly number[][]): { seen: number[]; dark: number } {
  const { rgb, top, frame } = land;
  const seen: number[] = [];
  let dark = 0;
  for (const [e, n, z, r, g, b] of rows as [number, number, number, number, number, number][]) {
    const [column, row] = [Math.floor((e - land.east) / frame.cell), Math.floor((n - land.north) / frame.cell)];
    if (column < 2 || row < 2 || column >= frame.columns - 2 || row >= frame.rows - 2) continue;
    const at = row * frame.columns + column;
    const given = [r, g, b].map((value) => value / 257);
    const off = given.reduce((sum, value, band) => sum + Math.abs(value - rgb[3 * at + band]!), 0) / 3;
    if (Math.abs(z - top[at]!) < 0.25) {
      if (r + g + b === 0) dark++;
      else seen.push(off);
    }
  }
  return { seen: seen.sort((a, b) => a - b), dark };
}

describe('photographs with poses', { timeout: 120_000 }, () => {
  test('come in with their list, are drawn where they were taken, and their list leaves again', async () => {
    const id = await bring(zip);
    const product = await host.api.newest(jobId, 'photographs');
    expect(product.id).toBe(id);
    expect(product.facts).toMatchObject({ count: 8, angles: 'omega-phi-kappa', remarks: [] });
    expect(product.facts.camera.focal).toBeCloseTo(frameCamera().focal, 9);
    const [head, ...lines] = Buffer.from(await host.api.file(jobId, id, 'csv'))
      .toString()
      .trim()
      .split('\n');
    expect(head).toBe('file,east,north,height,omega,phi,kappa');
    lines.forEach((line, k) => {
      const [name, ...numbers] = line.split(',');
      const { fileName, pose } = frames[k]!;
      expect(name).toBe(fileName);
      const wanted = [pose.east, pose.north, pose.up, ...omegaPhiKappa(pose.axes).map(toDegrees)];
      wanted.forEach((value, column) => expect(Number(numbers[column])).toBeCloseTo(value, 3));
    });
  });

  test('each point takes the colour of what is seen there, exposures evened out; undo takes it back', async () => {
    const { id } = await host.api.newest(jobId, 'photographs');
    const run = await host.api.operate(jobId, 'colour-from-photographs', { photographs: id, cloud: cloudId });
    expect(run.state, run.outcome).toBe('done');
    const agreement = Number(/agree by (0\.\d+)/.exec(run.outcome!)![1]);
    expect(agreement).toBeGreaterThan(0.6);
    const { rows } = await written();
    const { seen, dark } = errors(rows);
    // As measured: the median is 2.6 off, and 99.8 % less than 25, by JPEG, pixels of 0.2 m and the edges of crowns.
    const share = seen.filter((off) => off < 25).length / seen.length;
    expect(seen.length).toBeGreaterThan(100_000);
    expect(seen[seen.length >> 1]).toBeLessThan(5);
    expect(share).toBeGreaterThan(0.97);
    expect(dark / seen.length).toBeLessThan(0.01);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await written()).hasColour).toBe(false);
  });

  test('left uneven, exposures show', async () => {
    const { id } = await host.api.newest(jobId, 'photographs');
    const run = await host.api.operate(jobId, 'colour-from-photographs', { photographs: id, cloud: cloudId, evenSeams: false }); // prettier-ignore
    expect(run.state, run.outcome).toBe('done');
    const { seen } = errors((await written()).rows);
    expect(seen[seen.length >> 1]).toBeGreaterThan(6);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
  });

  test('a list of times takes places from the trajectory, with the camera turned in the aircraft', async () => {
    // The aircraft of the second photograph of a line stands half-way in time; the camera is mounted with its top to the right.
    const fixed = [0, 0.5, 1].map((share) => {
      const [one, other] = [frames[0]!.pose, frames[3]!.pose];
      const east = one.east + share * (other.east - one.east);
      return [1000 + 10 * share, east, CORNER.northing + 35, 150, 0, 0, 0].map((value) => value.toFixed(4)).join(',');
    });
    const flown = `time,east,north,height,roll,pitch,heading\n${fixed.join('\n')}\n`;
    const trajectory = await host.api.fromFile(jobId, 'import-trajectory', flown, 'flown.csv', {});
    expect(trajectory.state, trajectory.outcome).toBe('done');
    const given = { angles: 'platform', trajectory: trajectory.productId, mountHeading: 90 };
    const id = await bring(packedAs('file,time\nframe-00.jpg,1000\nframe-03,1010\n'), given);
    const product = await host.api.newest(jobId, 'photographs');
    expect(product.facts.count).toBe(2);
    expect(product.facts.remarks[0]).toContain('6 photographs left out, not in the list');
    const list = Buffer.from(await host.api.file(jobId, id, 'csv'))
      .toString()
      .trim()
      .split('\n');
    const [, , , height, omega, phi, kappa] = list[1]!.split(',').map(Number);
    [height, omega, phi, kappa].forEach((value, k) => expect(value).toBeCloseTo([150, 0, 0, -90][k]!, 3));
    const late = await host.api.fromFile(jobId, 'import-photographs', packedAs('file,time\nframe-00.jpg,2000\n'), 'late.zip', { ...CAMERA, ...given }); // prettier-ignore
    expect(late.state).toBe('failed');
    expect(late.outcome).toContain('The trajectory does not say where the aircraft was at 2');
  });

  test.each([
    [
      'roll, pitch and heading in place of omega, phi, kappa',
      (angles: number[]) => angles,
      'platform',
      'roll,pitch,heading',
      'omega, phi and kappa',
    ],
    [
      'headings that count the other way',
      ([o, p, k]: number[]) => [o, p, -k!],
      'omega-phi-kappa',
      'omega,phi,kappa',
      'the last angle counted the other way',
    ],
    [
      'a camera that is turned',
      ([o, p, k]: number[]) => [o, p, k! + 90],
      'omega-phi-kappa',
      'omega,phi,kappa',
      'a camera turned by -90° about its axis',
    ],
  ])(
    'angles that are read wrongly: %s: nothing is coloured, and what would fit is said',
    async (_, as, angles, heads, words) => {
      // prettier-ignore
      const lines = frames.map(({ fileName, pose }) => {
      const three = as(omegaPhiKappa(pose.axes).map(toDegrees));
      return [fileName, pose.east, pose.north, pose.up, ...three].join(',');
    });
      const id = await bring(packedAs(`file,east,north,height,${heads}\n${lines.join('\n')}\n`), { angles });
      const run = await host.api.operate(jobId, 'colour-from-photographs', { photographs: id, cloud: cloudId });
      expect(run.state, run.outcome).toBe('failed');
      expect(run.outcome).toContain('Nothing was coloured');
      expect(run.outcome).toContain(`Read as ${words} they would agree by 0.9`);
      expect((await written()).hasColour).toBe(false);
    },
  );

  test('photographs of other land say that none looks at the cloud', async () => {
    const lines = frames.map(({ fileName, pose }) => [fileName, pose.east + 5000, pose.north, pose.up, 0, 0, 0].join(',')); // prettier-ignore
    const id = await bring(packedAs(`file,east,north,height,omega,phi,kappa\n${lines.join('\n')}\n`));
    const run = await host.api.operate(jobId, 'colour-from-photographs', { photographs: id, cloud: cloudId });
    expect(run.outcome).toContain('None of the 8 photographs of “frames” looks at the cloud');
  });

  test.each([
    ['no zip file', () => strToU8('no zip at all'), 'it is no zip file, or is cut short'],
    ['a zip file cut in two', () => zip.subarray(0, zip.length >> 1), 'it is no zip file, or is cut short'],
    ['no photographs', () => zipSync({ 'list.csv': strToU8('file,east\na,1\n') }), 'No photograph lies in'],
    [
      'no list',
      () => {
        const { 'photographs.csv': _, ...rest } = unzipSync(zip);
        return zipSync(rest, { level: 0 });
      },
      'holds no list',
    ],
    ['two lists', () => packedAs('file,time\na,1\n', { 'notes.txt': strToU8('hello') }), 'which of them is the list'],
    [
      'a photograph that is none',
      () => packedAs('file,east,north,height,omega,phi,kappa\nx.jpg,1,2,3,0,0,0\n', { 'x.jpg': strToU8('words') }),
      'x.jpg cannot be read as a picture',
    ],
    [
      'a list of others',
      () => packedAs('file,east,north,height,omega,phi,kappa\ny.jpg,1,2,3,0,0,0\n'),
      'None of the 8 photographs is in the list; it names y.jpg',
    ],
    ['the same photograph twice', () => packedAs('file,time\na.jpg,1\nA.jpg,2\n'), 'The list names A.jpg twice'],
    [
      'two of one name in folders',
      () => packedAs('file,time\nb.jpg,1\n', { 'one/b.jpg': strToU8('1'), 'two/b.jpg': strToU8('2') }),
      'two files in it are called b.jpg',
    ],
    [
      'names that climb out',
      () => zipSync({ '../../climb.jpg': strToU8('x'), 'l.csv': strToU8('file,time\nclimb.jpg,1\n') }),
      'invalid relative path',
    ],
  ])('what cannot be used is refused in words, and nothing is kept: %s', async (_, make, words) => {
    // prettier-ignore
    const before = (await host.api.read(jobId)).products.length;
    const run = await host.api.fromFile(jobId, 'import-photographs', make(), 'frames.zip', CAMERA);
    expect(run.state).toBe('failed');
    expect(run.outcome).toContain(words);
    expect((await host.api.read(jobId)).products.length).toBe(before);
  });

  test('without focal length, or with a lens that folds the picture, it says what is wrong', async () => {
    const query = `?fileName=frames.zip&parameters=${encodeURIComponent(JSON.stringify({ pixelSize: 12 }))}`;
    const answer = await host.api.raw(`/jobs/${jobId}/operations/import-photographs/file${query}`, { method: 'POST', body: zip as Uint8Array<ArrayBuffer> }); // prettier-ignore
    expect(answer.status).toBe(400);
    expect(Buffer.from(answer.body).toString()).toContain('Focal length, mm: type a number.');
    const run = await host.api.fromFile(jobId, 'import-photographs', zip, 'frames.zip', { ...CAMERA, k1: -4 });
    expect(run.outcome).toContain('the lens folds the picture over');
  });
});
