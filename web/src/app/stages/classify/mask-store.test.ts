// @vitest-environment jsdom
import { ApplicationRef, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { surface, storesOver, turn, workbench, type PretendServer } from '../../stores.fixture';
import { SelectionStore } from '../../tools/selection-store';
import { ToolGestures } from '../../tools/tool-gestures';
import type { ToolHandler } from '../../tools/tool-handler';
import { PictureStore } from '../../viewer/picture-store';
import { PlanCovers } from '../../viewer/plan-covers';
import { PlanMarks } from '../../viewer/plan-marks';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { ViewCameras } from '../../viewer/view-cameras';
import { MaskStore } from './mask-store';

/** Plan at half a unit a pixel, its scene about (100, 200). */
class PretendCameras {
  readonly window = signal({ west: 100, south: 200, east: 150, north: 240 });
  readonly planWindow = (): ReturnType<typeof this.window> => this.window();
  readonly origin = (): readonly [number, number, number] => [100, 200, 10];
  readonly plan = (): { unitsPerPixel: number } => ({ unitsPerPixel: 0.5 });
  hold(_: string, px: number, py: number): readonly [number, number] {
    return [px / 2, py / 2];
  }
}
class PretendGestures {
  handler: ToolHandler | undefined;
  handle(_: string, handler: ToolHandler): void {
    this.handler = handler;
  }
}

const ring = { isIsland: false, places: [[101, 201], [103, 201], [103, 203]] }; // prettier-ignore
const preview = { rings: [ring], area: 2, pieces: 1, tolerance: 7.5, cell: 0.2 };
const event = (px: number, py: number, view = 'plan'): ToolEvent =>
  ({ view, px, py, shift: false, alt: false }) as ToolEvent;
const mask = (id: number) => surface(id, { kind: 'mask', facts: { area: 2, pieces: 1 } } as never);

let server: PretendServer;
let store: MaskStore;
let gestures: PretendGestures;
let answer: unknown;
const views = () => TestBed.inject(ViewStore);
const covers = () => TestBed.inject(PlanCovers).all();
/** Effects run, and what waits a moment after the last change is asked. */
const settle = async (): Promise<void> => {
  TestBed.inject(ApplicationRef).tick();
  await turn(140);
  TestBed.inject(ApplicationRef).tick();
};

beforeEach(async () => {
  answer = preview;
  gestures = new PretendGestures();
  ({ server } = storesOver(
    (id) => (id === 'previewMask' ? answer : id === 'showProduct' ? new TextEncoder().encode(JSON.stringify([ring])) : undefined), // prettier-ignore
    [
      JobStore,
      LayerStore,
      ViewStore,
      PictureStore,
      PlanCovers,
      PlanMarks,
      MaskStore,
      { provide: ViewCameras, useClass: PretendCameras },
      { provide: ToolGestures, useValue: gestures },
      { provide: SelectionStore, useValue: { brushRadius: signal(10) } },
    ],
  ));
  TestBed.inject(JobStore).workbench.set(workbench({ products: [] }));
  store = TestBed.inject(MaskStore);
  store.values.set({ picture: 3, grow: 0 });
  store.take('pick');
  await settle();
});

describe('a mask in the making', () => {
  test('nothing is asked before a place is picked; then what it would be is seen, with its places', async () => {
    expect(server.made('previewMask')).toHaveLength(0);
    gestures.handler!.click!(event(20, 40));
    await settle();
    const [call] = server.made('previewMask');
    expect(call!.given.params).toMatchObject({ productId: 3 });
    expect(call!.given.body).toEqual({
      window: { west: 100, south: 200, east: 150, north: 240 },
      parameters: { grow: 0, places: [[110, 220]], painted: [] },
    });
    expect(covers()).toEqual([{ key: 'preview', look: 'preview', rings: [ring] }]);
    expect(TestBed.inject(PlanMarks).all()).toMatchObject([{ kind: 'dot', easting: 110, northing: 220 }]);
  });

  test('what is made is what was seen: the tolerance found goes with it, unless one is typed', async () => {
    gestures.handler!.click!(event(20, 40));
    await settle();
    expect(store.given()).toEqual({ places: [[110, 220]], painted: [], tolerance: 7.5 });
    store.values.set({ picture: 3, tolerance: 12 });
    await settle();
    expect(store.given()).toEqual({ places: [[110, 220]], painted: [] });
  });

  test('strokes are painted where the brush is drawn, as wide as it is on the land', async () => {
    store.take('add');
    gestures.handler!.down!(event(0, 0));
    gestures.handler!.move!(event(1, 0));
    gestures.handler!.move!(event(10, 0));
    gestures.handler!.up!(event(10, 0));
    store.take('remove');
    gestures.handler!.click!(event(4, 4));
    expect(store.given().painted).toEqual([
      { path: [[100, 200], [105, 200]], radius: 5, adds: true }, // prettier-ignore
      { path: [[102, 202]], radius: 5, adds: false },
    ]);
    expect(gestures.handler!.keyed!(new KeyboardEvent('keydown', { key: 'Backspace' }), 'plan')).toBe(true);
    expect(store.given().painted).toHaveLength(1);
    // A click in another view, or another key, is none of its.
    gestures.handler!.click!(event(4, 4, 'model'));
    expect(store.given().painted).toHaveLength(1);
    expect(gestures.handler!.keyed!(new KeyboardEvent('keydown', { key: 'x' }), 'plan')).toBe(false);
  });

  test('a mask that comes out empty is told; what is picked can be cleared', async () => {
    answer = { ...preview, rings: [], pieces: 0, area: 0 };
    gestures.handler!.click!(event(20, 40));
    await settle();
    expect(store.fault()).toContain('Nothing is left');
    store.clear();
    await settle();
    expect([store.isEmpty(), store.fault(), covers()]).toEqual([true, '', []]);
  });

  test('the picture lies over the points while places are picked, and as before when another tool is taken', async () => {
    const pictures = TestBed.inject(PictureStore);
    expect(pictures.wipe()).toBe(1);
    views().tool.set('look');
    await settle();
    expect(pictures.wipe()).toBe(0);
  });
});

describe('masks of the job', () => {
  test('are read once and drawn while they are shown, and step back for one in the making', async () => {
    TestBed.inject(JobStore).workbench.set(workbench({ products: [mask(8)] }));
    await settle();
    expect(covers()).toEqual([{ key: 'mask-8', look: 'kept', rings: [ring] }]);
    gestures.handler!.click!(event(20, 40));
    await settle();
    expect(covers().map(({ look }) => look)).toEqual(['preview']);
    store.clear();
    TestBed.inject(LayerStore).setShown(layerKey('mask', 8), false);
    await settle();
    expect(covers()).toEqual([]);
    expect(server.made('showProduct')).toHaveLength(1);
  });
});
