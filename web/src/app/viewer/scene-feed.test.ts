// @vitest-environment jsdom
import { openViews, ORIGIN, type OpenedViews } from './views.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { abgr } from '../drawing/colours';
import { layerKey, LayerStore } from '../state/layer-store';
import { LineStore } from '../state/line-store';
import { LookStore } from '../state/look-store';
import { RendererStore } from '../state/renderer-store';
import { cloud, surface, turn } from '../stores.fixture';
import { ContourLabels } from './contour-labels';
import { PictureStore } from './picture-store';
import { SceneFeed } from './scene-feed';
import { SceneLines } from './scene-lines';
import { TintStore } from './tint-store';

let opened: OpenedViews;
const [E0, N0] = ORIGIN;
const bounds = (east = 0) => ({ min: [E0 + east, N0, 28], max: [E0 + east + 400, N0 + 200, 45] }) as never;
const node = (id: number): object => ({ id, level: 0, count: 10, spacing: 0, min: [0, 0, 0], max: [1, 1, 1], revision: 1, positions: 0, colours: 0 }); // prettier-ignore
const sets = signal<readonly object[]>([]);
const codes = signal<Readonly<Record<string, object>>>({});
const drawnSurfaces = signal<readonly object[]>([]);
let lines: Map<string, { colour: string; opacity: number; positions: Float32Array }>;

async function open(clouds = [cloud({ id: 1, bounds: bounds() })], products: object[] = []): Promise<void> {
  sets.set([]);
  codes.set({});
  drawnSurfaces.set([]);
  opened = openViews(
    { clouds, products: products as never },
    {
      providers: [
        SceneFeed,
        SceneLines,
        ContourLabels,
        RendererStore,
        { provide: LineStore, useValue: { shown: sets, codeOf: () => (code: string) => codes()[code] } },
        { provide: TintStore, useValue: { drawn: drawnSurfaces, areDraped: signal(false) } },
        { provide: PictureStore, useValue: { drawn: signal([]), wipe: signal(0) } },
      ],
    },
  );
  lines = new Map();
  TestBed.inject(SceneLines).changes$.subscribe(({ key, layer }) => {
    if (layer) lines.set(key, layer);
    else lines.delete(key);
  });
  TestBed.inject(SceneFeed);
  await opened.settled();
}
beforeEach(() => open());
const listed = async (...ids: number[]): Promise<void> => {
  opened.server.answer('listNodes', { nodes: ids.map(node) });
  await opened.settled();
  await opened.settled();
};
const told = () => opened.link.last('setClouds')[2] as { id: number; nodes: { id: number }[]; pointSpacing: number; columns: string[] }[]; // prettier-ignore

describe('what the drawing worker is told of clouds', () => {
  test('their nodes once they are listed, the spacing of their points, and the columns they have', async () => {
    expect(told()).toEqual([]);
    await listed(11, 12);
    expect(told()).toMatchObject([{ id: 1, nodes: [{ id: 11 }, { id: 12 }] }]);
    // A thousand points on 400 by 200.
    expect(told()[0]!.pointSpacing).toBeCloseTo(Math.sqrt((400 * 200) / 1000), 9);
    expect(told()[0]!.columns).toEqual(['intensity', 'returns', 'scanAngle', 'pointSourceId', 'gpsTime']);
  });

  test('colours, infrared, confidence and accuracy are columns where the cloud has them', async () => {
    const columns = { gpsTime: false, rgb: true, nearInfrared: true, wavePacket: false, extraBytesLength: 0 };
    await open([cloud({ id: 1, bounds: bounds(), columns, hasConfidence: true, hasAccuracy: true })]);
    await listed(11);
    expect(told()[0]!.columns.slice(4)).toEqual(['colour', 'confidence', 'accuracy', 'infrared']);
  });

  test('the views are set on new land once: about its middle, in round numbers', async () => {
    await listed(11);
    expect(opened.cameras.origin()).toEqual([E0 + 200, N0 + 100, 10]);
    opened.cameras.plan.update((camera) => ({ ...camera, unitsPerPixel: 0.01 }));
    // An edit is no new land: who has zoomed in stays there.
    opened.job.workbench.update((bench) => ({ ...bench!, clouds: [cloud({ id: 1, bounds: bounds(), revision: 2 })] }));
    await opened.settled();
    await listed(11);
    expect(opened.cameras.plan().unitsPerPixel).toBe(0.01);
    opened.job.workbench.update((bench) => ({ ...bench!, clouds: [cloud({ id: 1, bounds: bounds(), revision: 2 }), cloud({ id: 2, bounds: bounds(900) })] })); // prettier-ignore
    await opened.settled();
    await listed(21);
    expect(opened.cameras.plan().unitsPerPixel).toBeGreaterThan(0.5);
    // ... but what is drawn stays where it is.
    expect(opened.cameras.origin()).toEqual([E0 + 200, N0 + 100, 10]);
  });

  test('nodes are listed again only where the cloud has changed', async () => {
    await listed(11);
    opened.job.workbench.update((bench) => ({ ...bench! }));
    await opened.settled();
    expect(opened.server.made('listNodes')).toHaveLength(1);
    opened.job.workbench.update((bench) => ({ ...bench!, clouds: [cloud({ id: 1, bounds: bounds(), colours: 3 })] }));
    await opened.settled();
    expect(opened.server.made('listNodes')).toHaveLength(2);
  });

  test('lists that come late do not come over those of now', async () => {
    opened.job.workbench.update((bench) => ({ ...bench!, clouds: [cloud({ id: 1, bounds: bounds(), revision: 2 })] }));
    await opened.settled();
    const [first, second] = opened.server.made('listNodes');
    second!.answer.next({ nodes: [node(22)] });
    second!.answer.complete();
    await opened.settled();
    first!.answer.next({ nodes: [node(11)] });
    first!.answer.complete();
    await opened.settled();
    expect(told()).toMatchObject([{ nodes: [{ id: 22 }] }]);
  });

  test('one that was cancelled while it came in is passed over', async () => {
    opened.server.refuse('listNodes', 'There is no such cloud.');
    await opened.settled();
    expect(told()).toEqual([]);
    expect(opened.said).toEqual([]);
  });

  test('a cloud that is hidden is not drawn', async () => {
    await listed(11);
    TestBed.inject(LayerStore).setShown(layerKey('cloud', 1), false);
    await opened.settled();
    expect(told()).toEqual([]);
  });
});

describe('how points look', () => {
  interface Style {
    mode: string;
    classColours: Uint32Array;
    hides: Uint8Array;
    pointSize: number;
  }
  const style = () => opened.link.last('setStyle')[0] as Style;

  test('classes in their colours, hidden ones marked, size and mode as they are set', async () => {
    const look = TestBed.inject(LookStore);
    expect(style().classColours[6]).toBe(abgr(look.classColour()(6)));
    expect(style().classColours).toHaveLength(256);
    look.toggleClass(6);
    look.pointSize.set(3);
    look.mode.set('intensity');
    await opened.settled();
    expect([style().hides[6], style().hides[2], style().pointSize, style().mode]).toEqual([1, 0, 3, 'intensity']);
  });

  test('what values are spread over is asked once the picture of a mode with a ramp rests, and only then', async () => {
    const look = TestBed.inject(LookStore);
    look.mode.set('class');
    await opened.settled();
    await turn(750);
    expect(opened.link.questions('spread')).toHaveLength(0);
    look.mode.set('intensity');
    await opened.settled();
    await turn(750);
    const [asked] = opened.link.questions('spread');
    const spread = { mode: 'intensity', low: 1, high: 9, counts: [1], percentiles: { 1: 1, 2: 2, 5: 3, 95: 7, 98: 8, 99: 9 } }; // prettier-ignore
    asked!.answer(spread);
    await opened.settled();
    expect(look.spread()).toEqual(spread);
  });

  test('a spread of another mode than the one shown now is thrown away', async () => {
    const look = TestBed.inject(LookStore);
    const reading = TestBed.inject(SceneFeed).readSpread('elevation');
    opened.link.questions('spread').at(-1)!.answer({ mode: 'intensity', low: 0, high: 1, counts: [], percentiles: {} });
    await reading;
    expect(look.spread()?.mode).not.toBe('intensity');
  });
});

describe('surfaces', () => {
  const solid = { url: '/s', productId: 7, tint: { table: new Uint32Array(1), low: 0, high: 1, by: 'elevation' }, opacity: 1 }; // prettier-ignore

  test('close up, a finer piece of what Plan shows is fetched, once it rests', async () => {
    await open([cloud({ id: 1, bounds: bounds() })], [surface(7)]);
    await listed(11);
    TestBed.inject(LayerStore).showSurface();
    drawnSurfaces.set([solid]);
    opened.cameras.plan.update((camera) => ({ ...camera, unitsPerPixel: 0.02 }));
    await opened.settled();
    expect(opened.link.told.some(([kind, detail]) => kind === 'setDetail' && detail)).toBe(false);
    await turn(260);
    const [detail] = opened.link.last('setDetail') as [{ url: string }];
    const query = new URL(detail.url, 'http://x').searchParams;
    expect(Number(query.get('cell'))).toBeCloseTo(0.03, 9);
    expect(Number(query.get('east')) - Number(query.get('west'))).toBeCloseTo(1.2 * 0.02 * 1000, 6);
    // From further off the grid of the whole will do.
    opened.cameras.plan.update((camera) => ({ ...camera, unitsPerPixel: 1 }));
    await opened.settled();
    expect(opened.link.last('setDetail')).toEqual([undefined]);
  });

  test('two over each other, or one seen through, have no finer piece', async () => {
    await open([cloud({ id: 1, bounds: bounds() })], [surface(7)]);
    await listed(11);
    TestBed.inject(LayerStore).showSurface();
    opened.cameras.plan.update((camera) => ({ ...camera, unitsPerPixel: 0.02 }));
    for (const drawn of [[solid, solid], [{ ...solid, opacity: 0.5 }]]) {
      drawnSurfaces.set(drawn);
      await opened.settled();
      await turn(230);
      expect(opened.link.last('setDetail')).toEqual([undefined]);
    }
  });
});

describe('lines of codes', () => {
  const set = (id: number, code: string, seriesId = id) => ({
    product: { id, seriesId, facts: { code } },
    lines: [{ key: 1, isClosed: false, easting: Float64Array.of(E0 + 200, E0 + 210), northing: Float64Array.of(N0 + 100, N0 + 100), elevation: Float64Array.of(10, 11), source: Uint8Array.of(1, 1) }],
  }); // prettier-ignore

  test('are drawn about the origin in the colour and with the opacity of their code', async () => {
    await listed(11);
    codes.set({ KERB: { colour: '#cc0000', style: 'solid', opacity: 0.4 } });
    sets.set([set(5, 'KERB'), set(6, 'OTHER')]);
    await opened.settled();
    expect([...lines.keys()]).toEqual(['lines-5', 'lines-6']);
    expect(lines.get('lines-5')).toMatchObject({ colour: '#cc0000', opacity: 0.4 });
    expect([...lines.get('lines-5')!.positions]).toEqual([0, 0, 0, 10, 0, 1]);
    // A code that is not on the list has a colour all the same.
    expect(lines.get('lines-6')!.colour).toMatch(/^#/);
  });

  test('those that have not changed are left; those that are gone go', async () => {
    await listed(11);
    sets.set([set(5, 'KERB'), set(6, 'WALL')]);
    await opened.settled();
    const before = lines.get('lines-5')!.positions;
    sets.set([set(5, 'KERB')]);
    await opened.settled();
    expect([...lines.keys()]).toEqual(['lines-5']);
    expect(lines.get('lines-5')!.positions).toBe(before);
    // Another edition of the same code is another product of the same series.
    sets.set([set(9, 'KERB', 5)]);
    await opened.settled();
    expect([...lines.keys()]).toEqual(['lines-5']);
    expect(lines.get('lines-5')!.positions).not.toBe(before);
  });
});
