import { packArrays } from '@pampero/core/binary';
import { rampTable } from '@pampero/core/tints';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { planMatrix, type PlanCamera } from './cameras';
import { abgr } from './colours';
import { classColour } from '@pampero/core/tints';
import { DrawingEngine } from './drawing-engine';
import type { DrawnCloud, DrawnSurface, PointStyle, ViewerAnswer } from './drawing-protocol';
import type { PickedPoint, ViewerQuestions, Question } from './viewer-questions';

/* The drawing worker's inside without a worker: a server made up of a few nodes and rasters, pictures of a few pixels. */

const ORIGIN = [1000, 2000, 100] as const;
const [WIDTH, HEIGHT] = [40, 30];
const COUNT = 6;
/** Six points in a row along easting, two metres apart, at 100 m. */
const geometry = (): ArrayBuffer =>
  Int32Array.from([0, 200, 400, 600, 800, 1000, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]).buffer;
const camera: PlanCamera = { x: 5, y: 0, unitsPerPixel: 0.5, low: -50, high: 50 };

const cloud = (more: Partial<DrawnCloud> = {}): DrawnCloud => ({
  id: 1,
  nodes: [{ id: 11, level: 0, count: COUNT, spacing: 1, min: [0, 0, 0], max: [1000, 0, 0], revision: 3 } as never],
  scale: [0.01, 0.01, 0.01],
  offset: [...ORIGIN],
  pointSpacing: 2,
  columns: ['intensity', 'returns', 'colour'],
  ...more,
});
const style = (more: Partial<PointStyle> = {}): PointStyle => ({
  mode: 'class',
  classColours: Uint32Array.from({ length: 256 }, (_, code) => abgr(classColour(code))),
  strips: [],
  hides: new Uint8Array(256),
  range: [0, 1],
  ramp: rampTable('land'),
  visible: { hiddenClasses: [], withWithheld: false },
  pointSize: 1,
  shading: 0,
  detail: 1,
  selected: abgr('#ff00ff'),
  found: abgr('#ff5500'),
  ...more,
});

let engine: DrawingEngine;
let answers: ViewerAnswer[];
let asked: string[];
let classes: number[];
let rasters: Record<string, Uint8Array>;
let serial = 0;

beforeEach(() => {
  answers = [];
  asked = [];
  classes = [1, 1, 2, 2, 6, 6];
  rasters = {};
  vi.stubGlobal('fetch', (url: string) => {
    asked.push(url);
    const raster = Object.keys(rasters).find((key) => url.startsWith(key));
    if (raster) return Promise.resolve(new Response((rasters[url] ?? rasters[raster]) as Uint8Array<ArrayBuffer>));
    if (url.includes('/columns/intensity'))
      return Promise.resolve(new Response(Uint16Array.from([10, 20, 30, 40, 50, 60]).buffer));
    if (url.includes('/columns/returns'))
      return Promise.resolve(new Response(Uint8Array.from([0x11, 0x21, 0x22, 0x31, 0x32, 0x33])));
    if (url.includes('/columns/colour'))
      return Promise.resolve(new Response(Uint16Array.from(Array.from({ length: 18 }, (_, k) => k * 256)).buffer));
    if (url.includes('/geometry')) return Promise.resolve(new Response(geometry()));
    if (url.includes('/class')) return Promise.resolve(new Response(Uint8Array.from([...classes, 0, 0, 0, 0, 0, 0])));
    return Promise.resolve(new Response('', { status: 404 }));
  });
  engine = new DrawingEngine((answer) => answers.push(answer));
  engine.receive({ kind: 'style', style: style() });
});
afterEach(() => vi.unstubAllGlobals());

type Picture = Extract<ViewerAnswer, { kind: 'picture' }>;
const pictures = (): Picture[] => answers.filter((answer) => answer.kind === 'picture');

function draw(more: Record<string, unknown> = {}): void {
  engine.receive({
    kind: 'draw',
    view: 'plan',
    serial: ++serial,
    width: WIDTH,
    height: HEIGHT,
    matrix: planMatrix(camera, WIDTH, HEIGHT),
    scale: { isPerspective: false, near: 0, far: 100, pixel: 0.5 },
    shading: 0,
    isMoving: false,
    showPoints: true,
    showSurface: false,
    ground: undefined,
    ...more,
  });
}

/** A busy machine takes its time; a fault shows as a wait that ends. */
const PATIENT = { timeout: 20_000, interval: 5 };

/** The last picture, once there is one that fulfils something. */
async function picture(that: (picture: Picture) => boolean = ({ isComplete }) => isComplete): Promise<Picture> {
  await vi.waitFor(() => expect(pictures().some(that)).toBe(true), PATIENT);
  return pictures().findLast(that)!;
}

/** Colours along the row that the points lie in, one each. */
function coloursOf({ rgba }: Picture): string[] {
  const out: string[] = [];
  for (let k = 0; k < COUNT; k++) {
    // A point two metres on is four pixels on; the first lies five metres west of the middle.
    const [column, row] = [WIDTH / 2 - 10 + 4 * k, HEIGHT / 2];
    let found = '';
    for (const r of [row - 1, row])
      for (const c of [column - 1, column]) {
        const at = 4 * (r * WIDTH + c);
        if (rgba[at + 3]! > 0) found = `#${[0, 1, 2].map((b) => rgba[at + b]!.toString(16).padStart(2, '0')).join('')}`;
      }
    out.push(found);
  }
  return out;
}

async function ask<Q extends Question>(
  question: Q,
  about: ViewerQuestions[Q]['ask'],
): Promise<ViewerQuestions[Q]['answer']> {
  const mine = ++serial;
  engine.receive({ kind: 'ask', serial: mine, question, about });
  await vi.waitFor(
    () => expect(answers.some((answer) => answer.kind === 'answer' && answer.serial === mine)).toBe(true),
    PATIENT,
  );
  return (answers.find((answer) => answer.kind === 'answer' && answer.serial === mine) as unknown as { answer: never })
    .answer;
}

const open = (): void => engine.receive({ kind: 'clouds', jobId: 'job', origin: ORIGIN, clouds: [cloud()] });
const byClass = (...codes: number[]): string[] => codes.map((code) => classColour(code).toLowerCase());

describe('a picture of points', () => {
  test('is empty at first and says so, and comes again when the points have come', async () => {
    open();
    draw();
    const first = await picture(() => true);
    expect([first.drawn, first.isComplete]).toEqual([0, false]);
    const whole = await picture();
    expect([whole.drawn, whole.serial]).toEqual([COUNT, serial]);
    expect(coloursOf(whole)).toEqual(byClass(1, 1, 2, 2, 6, 6));
    expect(asked.filter((url) => url.includes('/geometry'))).toHaveLength(1);
    expect(whole.depth).toHaveLength(WIDTH * HEIGHT);
  });

  test('leaves out hidden classes at once, without asking the server', async () => {
    open();
    draw();
    await picture();
    const before = asked.length;
    const hides = new Uint8Array(256);
    hides[2] = 1;
    answers.length = 0;
    engine.receive({ kind: 'style', style: style({ hides }) });
    expect(coloursOf(await picture())).toEqual(
      ['', '', '', '', '', ''].map((_, k) => (k === 2 || k === 3 ? '' : byClass(1, 1, 2, 2, 6, 6)[k]!)),
    );
    expect(asked.length).toBe(before);
  });

  test('by intensity waits for the column, and is then coloured by it', async () => {
    open();
    draw();
    await picture();
    answers.length = 0;
    engine.receive({ kind: 'style', style: style({ mode: 'intensity', range: [10, 60] }) });
    const colours = coloursOf(await picture(({ drawn }) => drawn > 0));
    expect(asked.filter((url) => url.includes('/columns/intensity'))).toHaveLength(1);
    expect(new Set(colours).size).toBe(6);
    expect(await ask('spread', { view: 'plan' })).toMatchObject({ mode: 'intensity', low: 10, high: 60 });
  });

  test('takes only the newest of several requests for a view', async () => {
    open();
    draw();
    await picture();
    answers.length = 0;
    for (let k = 0; k < 8; k++) draw();
    await picture(({ serial: of }) => of === serial);
    expect(pictures().length).toBeLessThan(4);
    engine.receive({ kind: 'drop', view: 'plan' });
    answers.length = 0;
    engine.receive({ kind: 'style', style: style() });
    await new Promise((resolve) => setTimeout(resolve, 60));
    expect(pictures()).toEqual([]);
  });

  test('for a canvas comes on its ground with the lines over it, and without depth', async () => {
    open();
    engine.receive({
      kind: 'lines',
      key: 'a',
      layer: {
        positions: Float32Array.of(0, 3, 10, 10, 3, 10),
        paint: { rgb: [255, 0, 0], opacity: 1, isDepthTested: false },
        views: ['plan'],
      } as never,
    });
    draw({ ground: [10, 20, 30] });
    const { rgba, depth } = await picture();
    expect(depth).toBeUndefined();
    expect([...rgba.subarray(0, 4)]).toEqual([10, 20, 30, 255]);
    const reds = (of: Uint8ClampedArray): number =>
      Array.from({ length: WIDTH * HEIGHT }, (_, k) => Number(of[4 * k]! > 55 && of[4 * k + 1]! < 40)).reduce(
        (a, b) => a + b,
      );
    expect(reds(rgba)).toBeGreaterThan(15);
    answers.length = 0;
    engine.receive({ kind: 'lines', key: 'a', layer: undefined });
    draw({ ground: [10, 20, 30] });
    expect(reds((await picture(({ serial: of }) => of === serial)).rgba)).toBe(0);
  });
});

describe('what is pointed at', () => {
  test('a point under the pointer has the file’s own coordinates and its class; beside it there is none', async () => {
    open();
    draw();
    await picture();
    const at = await ask('pick', { view: 'plan', column: WIDTH / 2 - 10 + 8, row: HEIGHT / 2 });
    expect(at).toEqual({
      easting: 1004,
      northing: 2000,
      elevation: 100,
      classCode: 2,
      cloudId: 1,
      nodeId: 11,
      index: 2,
    });
    expect(await ask('pick', { view: 'plan', column: 1, row: 1 })).toBeUndefined();
    expect(await ask('pick', { view: 'model', column: 1, row: 1 })).toBeUndefined();
  });

  test('tells all it has, of the columns the cloud has', async () => {
    open();
    draw();
    await picture();
    const point = (await ask('pick', { view: 'plan', column: WIDTH / 2 - 10 + 12, row: HEIGHT / 2 })) as PickedPoint;
    expect(await ask('details', { point })).toEqual({
      flags: 0,
      intensity: 40,
      returnNumber: 1,
      returns: 3,
      rgb: [3, 9, 15],
    });
    expect(await ask('details', { point: { ...point, nodeId: 99 } })).toBeUndefined();
  });
});

describe('what is selected', () => {
  const visible = { hiddenClasses: [], withWithheld: false };
  const ofClass = (code: number): never =>
    [{ how: 'add', shape: { kind: 'classes', classes: [code] }, visible }] as never;

  test('is drawn in its colour, set to a class at once, and as it was when the server did not do it', async () => {
    open();
    draw();
    await picture();
    answers.length = 0;
    engine.receive({ kind: 'selection', selection: ofClass(2) });
    const magenta = '#ff00ff';
    expect(coloursOf(await picture())).toEqual([...byClass(1, 1), magenta, magenta, ...byClass(6, 6)]);
    answers.length = 0;
    engine.receive({ kind: 'optimistic', change: { classCode: 9 } });
    expect(coloursOf(await picture(({ rgba }) => coloursOf({ rgba } as Picture)[2] !== magenta))).toEqual(
      byClass(1, 1, 9, 9, 6, 6),
    );
    answers.length = 0;
    engine.receive({ kind: 'take-back' });
    expect(coloursOf(await picture(({ rgba }) => coloursOf({ rgba } as Picture)[2] === byClass(2)[0]))).toEqual(
      byClass(1, 1, 2, 2, 6, 6),
    );
  });

  test('withheld is gone from the picture', async () => {
    open();
    draw();
    await picture();
    engine.receive({ kind: 'selection', selection: ofClass(6) });
    answers.length = 0;
    engine.receive({ kind: 'optimistic', change: { setFlags: 4 } });
    expect(coloursOf(await picture(({ rgba }) => coloursOf({ rgba } as Picture)[5] === '')).slice(3)).toEqual([
      ...byClass(2),
      '',
      '',
    ]);
  });

  test('classes that changed on the server are read again, places are not', async () => {
    open();
    draw();
    await picture();
    classes = [9, 9, 9, 9, 9, 9];
    answers.length = 0;
    const [node] = cloud().nodes;
    engine.receive({
      kind: 'clouds',
      jobId: 'job',
      origin: ORIGIN,
      clouds: [cloud({ nodes: [{ ...node!, revision: 4 }] })],
    });
    expect(coloursOf(await picture(({ rgba }) => coloursOf({ rgba } as Picture)[0] === byClass(9)[0]))).toEqual(
      byClass(9, 9, 9, 9, 9, 9),
    );
    expect(asked.filter((url) => url.includes('/geometry'))).toHaveLength(1);
  });
});

describe('a surface', () => {
  /** A plane of 21 by 21 cells of a metre that rises ten per cent to the east, from 100 m. */
  const plane = (): Uint8Array =>
    packArrays(
      { elevation: Float32Array.from({ length: 441 }, (_, k) => 100 + 0.1 * ((k % 21) + 0.5)) },
      { east: 995, north: 1990, cell: 1, columns: 21, rows: 21 },
    );
  const drawn = (url: string, more: Partial<DrawnSurface> = {}): DrawnSurface => ({
    url,
    productId: 4,
    tint: { table: rampTable('land'), low: 100, high: 103, by: 'elevation' },
    opacity: 1,
    ...more,
  });
  const show = (...surfaces: DrawnSurface[]): void => engine.receive({ kind: 'surfaces', surfaces });
  beforeEach(() => {
    rasters['/s/4'] = plane();
    engine.receive({ kind: 'clouds', jobId: 'job', origin: ORIGIN, clouds: [] });
  });

  test('is read once, drawn, and answers for its elevation, slope, profile and volume', async () => {
    show(drawn('/s/4'));
    draw({ showPoints: false, showSurface: true });
    const { rgba } = await picture(({ rgba: of }) => of.some((value) => value !== 0));
    expect(rgba[4 * (15 * WIDTH + 20) + 3]).toBe(255);
    const at = (await ask('surfaceAt', { at: [5, 0], from: [0, 0] }))!;
    expect(at.elevation).toBeCloseTo(101, 4);
    expect(at.slope).toBeCloseTo(0.1, 4);
    expect(at.from!.distance).toBeCloseTo(5, 6);
    expect(at.from!.rise).toBeCloseTo(0.5, 4);
    expect((await ask('surfaceAt', { at: [500, 0], from: undefined }))?.elevation).toBeUndefined();
    const { stations, elevations } = (await ask('profile', { line: [0, 0, 10, 0] }))!;
    expect(elevations.at(-1)! - elevations[0]!).toBeCloseTo(1, 3);
    expect(stations.at(-1)).toBeCloseTo(10, 6);
    const area = (await ask('area', {
      corners: [
        [0, -5],
        [10, -5],
        [10, 5],
        [0, 5],
      ],
      level: 101,
    }))!;
    expect(area.planArea).toBeCloseTo(100, 0);
    expect(area.slopeArea / area.planArea).toBeCloseTo(Math.hypot(1, 0.1), 2);
    expect(area.over - area.under).toBeCloseTo(0, 0);
    expect(asked.filter((url) => url === '/s/4')).toHaveLength(1);
    const tinted = (await ask('tinted', {}))!;
    expect(tinted.low).toBeGreaterThanOrEqual(100);
    expect(tinted.high).toBeLessThan(102.2);
  });

  test('has quick contours in a window, in the right number', async () => {
    show(drawn('/s/4'));
    draw({ showPoints: false, showSurface: true });
    await picture(({ rgba }) => rgba.some((value) => value !== 0));
    const window = { west: 995, south: 1990, east: 1016, north: 2011 };
    const contours = (await ask('contours', { interval: 0.5, base: 0, indexEvery: 2, window }))!;
    // 100.5 to 102 in steps of half a metre.
    expect(contours.lines).toBe(4);
    expect(contours.index.length).toBeGreaterThan(0);
    expect(await ask('contours', { interval: 5, base: 4, indexEvery: 2, window })).toMatchObject({ lines: 0 });
  });

  test('that was edited is read by its difference from the one before', async () => {
    show(drawn('/s/4'));
    draw({ showPoints: false, showSurface: true });
    await picture(({ rgba }) => rgba.some((value) => value !== 0));
    const part = { column: 10, row: 10, columns: 2, rows: 1 };
    rasters['/s/5?since=4'] = packArrays(
      { elevation: Float32Array.of(150, 150) },
      { east: 995, north: 1990, cell: 1, columns: 21, rows: 21, part },
    );
    rasters['/s/5'] = plane();
    show(drawn('/s/5', { productId: 5 }));
    await vi.waitFor(() => expect(asked).toContain('/s/5?since=4'), PATIENT);
    await vi.waitFor(
      async () => expect((await ask('surfaceAt', { at: [5.5, 0.5], from: undefined }))?.elevation).toBeCloseTo(150, 3),
      PATIENT,
    );
    // Elsewhere it is as it was.
    expect((await ask('surfaceAt', { at: [0, 0], from: undefined }))!.elevation).toBeCloseTo(100.5, 4);
  });

  test('that was just told answers for itself, though it has not come yet; never for the one before it', async () => {
    open();
    rasters['/s/5'] = packArrays({ elevation: Float32Array.of(7, 7, 7, 7) }, { east: 995, north: 1995, cell: 10, columns: 2, rows: 2 }); // prettier-ignore
    show(drawn('/s/4', { productId: 4 }));
    show(drawn('/s/5', { productId: 5 }));
    expect((await ask('surfaceAt', { at: [0, 0], from: undefined }))?.elevation).toBeCloseTo(7, 3);
  });

  test('of differences is drawn level, and heights are not measured from it', async () => {
    show(drawn('/s/4', { isFlat: true }));
    draw({ showPoints: false, showSurface: true });
    await picture(({ rgba }) => rgba.some((value) => value !== 0));
    expect(await ask('surfaceAt', { at: [5, 0], from: undefined })).toBeUndefined();
  });

  test('that cannot be read is left out, and the questions about it answered with nothing', async () => {
    show(drawn('/nowhere'));
    draw({ showPoints: false, showSurface: true });
    await picture(() => true);
    expect(await ask('profile', { line: [0, 0, 1, 1] })).toBeUndefined();
    expect(await ask('tinted', {})).toBeUndefined();
    expect(
      await ask('area', {
        corners: [
          [0, 0],
          [1, 0],
          [1, 1],
        ],
        level: 0,
      }),
    ).toBeUndefined();
  });
});

describe('who draws', () => {
  test('the processor, where graphics are asked for and cannot be had; this is told', () => {
    engine.receive({ kind: 'painter', name: 'graphics' });
    expect(answers.map(({ kind }) => kind)).toEqual(['trouble', 'painter']);
    expect(answers.at(-1)).toEqual({ kind: 'painter', name: 'processor' });
  });

  test('a server that does not answer is told, and asked again later', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new Error('no route')));
    open();
    draw();
    await vi.waitFor(() => expect(answers.some(({ kind }) => kind === 'trouble')).toBe(true), PATIENT);
  });
});
