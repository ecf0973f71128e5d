// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { packArrays } from '@pampero/core/binary';
import { beforeEach, describe, expect, test } from 'vitest';
import { ApiError } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { run, storesOver, surface, turn, workbench, type PretendServer } from '../../stores.fixture';
import { ToolGestures } from '../../tools/tool-gestures';
import { PlanMarks } from '../../viewer/plan-marks';
import { SceneLines } from '../../viewer/scene-lines';
import { ViewCameras } from '../../viewer/view-cameras';
import { SurfaceEditStore } from './surface-edit-store';

/** The parts of the viewer that editing asks, without a picture. */
class PretendCameras {
  readonly origin = signal<readonly [number, number, number]>([100, 200, 10]);
  readonly window = signal({ west: 100, south: 200, east: 150, north: 240 });
  readonly planWindow = (): ReturnType<typeof this.window> => this.window();
  readonly looked: unknown[] = [];
  lookClose(place: unknown, across: number): void {
    this.looked.push([place, across]);
  }
}
class PretendGestures {
  click: ((place: readonly [number, number]) => void) | undefined;
  onClick(tool: string, does: (place: readonly [number, number]) => void): void {
    if (tool === 'triangles') this.click = does;
  }
}

const spike = { kind: 'spike', easting: 110, northing: 210, elevation: 14, size: 2.5, slope: 3 } as never;
const hole = { kind: 'hole', easting: 120, northing: 220, elevation: 12, size: 100, slope: 0 } as never;
/** Two edges: one inside, one of the boundary. */
const edges = packArrays(
  { places: Float64Array.of(101, 202, 11, 103, 204, 12, 110, 220, 13, 111, 221, 14), marks: Uint8Array.of(0, 2) },
  { tooMany: false },
);

let server: PretendServer;
let edit: SurfaceEditStore;
let gestures: PretendGestures;
let cameras: PretendCameras;
let refusal: ApiError | undefined;
let drawn: Record<string, number>;
beforeEach(() => {
  refusal = undefined;
  gestures = new PretendGestures();
  cameras = new PretendCameras();
  ({ server } = storesOver(
    (id) =>
      id === 'readSurfaceEdges'
        ? edges.buffer
        : id === 'startOperation' && !refusal
          ? run({ id: 'r1', operation: 'edit-surface' })
          : undefined,
    [
      JobStore,
      LayerStore,
      ViewStore,
      SurfaceEditStore,
      PlanMarks,
      SceneLines,
      { provide: ViewCameras, useValue: cameras },
      { provide: ToolGestures, useValue: gestures },
    ],
  ));
  TestBed.inject(JobStore).workbench.set(workbench({ products: [surface(4)] }));
  drawn = {};
  TestBed.inject(SceneLines).changes$.subscribe(({ key, layer }) => (drawn[key] = layer?.positions.length ?? 0));
  edit = TestBed.inject(SurfaceEditStore);
});

const asked = (id: string): unknown[] => server.made(id).map(({ given }) => given.body);
const take = async (): Promise<void> => {
  TestBed.inject(ViewStore).takeTool('triangles');
  TestBed.tick();
  await turn(220);
  TestBed.tick();
};

describe('a click on the surface', () => {
  test('takes out what is there, or does what else is chosen', () => {
    gestures.click!([105, 205]);
    edit.mode.set('swap');
    gestures.click!([106, 206]);
    edit.mode.set('drop');
    gestures.click!([107, 207]);
    expect(asked('startOperation')).toEqual([
      { surfaceId: 4, edits: [{ kind: 'take-out', place: [105, 205] }] },
      { surfaceId: 4, edits: [{ kind: 'swap', place: [106, 206] }] },
      { surfaceId: 4, edits: [{ kind: 'drop', place: [107, 207] }] },
    ]);
  });

  test('adds a point once its elevation is typed, and asks for it before', () => {
    edit.mode.set('add');
    gestures.click!([105, 205]);
    expect([edit.fault(), asked('startOperation')]).toEqual(['Type the elevation of the new point.', []]);
    edit.elevation.set(0);
    gestures.click!([105, 205]);
    expect(asked('startOperation')).toEqual([
      { surfaceId: 4, edits: [{ kind: 'add', place: [105, 205], elevation: 0 }] },
    ]);
    expect(edit.fault()).toBe('');
  });

  test('does nothing where no surface is shown', () => {
    TestBed.inject(LayerStore).setShown(layerKey('surface', 4), false);
    gestures.click!([105, 205]);
    expect(asked('startOperation')).toEqual([]);
  });

  test('says why it was refused', () => {
    refusal = new ApiError({
      type: 'x',
      title: 'x',
      status: 400,
      code: 'invalid',
      detail: 'All of it.',
      errors: [{ pointer: '/edits', detail: 'No triangle lies there.' }],
    });
    gestures.click!([105, 205]);
    server.made('startOperation')[0]!.answer.error(refusal);
    expect(edit.fault()).toBe('No triangle lies there.');
  });
});

describe('edges', () => {
  test('are read for what Plan shows while the tool is in hand, and lie about the scene’s origin', async () => {
    await turn();
    expect(asked('readSurfaceEdges')).toEqual([]);
    await take();
    expect(asked('readSurfaceEdges')).toEqual([{ west: 100, south: 200, east: 150, north: 240 }]);
    const [inside, held, boundary] = edit.edges()!;
    expect([...inside]).toEqual([1, 2, 1, 3, 4, 2]);
    expect([held.length, [...boundary]]).toEqual([0, [10, 20, 3, 11, 21, 4]]);
    expect(drawn).toMatchObject({ 'edges-inside': 6, 'edges-held': 0, 'edges-boundary': 6 });
  });

  test('are asked once for a window that is still moving, and go when the tool is laid down', async () => {
    TestBed.inject(ViewStore).takeTool('triangles');
    for (const west of [101, 102, 103]) {
      cameras.window.update((window) => ({ ...window, west }));
      TestBed.tick();
      await turn(20);
    }
    await turn(220);
    expect(asked('readSurfaceEdges')).toEqual([{ west: 103, south: 200, east: 150, north: 240 }]);
    TestBed.inject(ViewStore).takeTool('look');
    TestBed.tick();
    expect(edit.edges()).toBeUndefined();
  });

  test('of a surface that is no longer shown are thrown away', async () => {
    await take();
    TestBed.inject(JobStore).workbench.set(workbench({ products: [] }));
    TestBed.tick();
    await turn();
    expect(edit.edges()).toBeUndefined();
  });
});

describe('what looks wrong on it', () => {
  const found = (): void => {
    edit.look();
    server.made('findSurfaceFaults')[0]!.answer.next([spike, hole]);
    server.made('findSurfaceFaults')[0]!.answer.complete();
  };

  test('is looked for once at a time', () => {
    edit.look();
    edit.look();
    expect([server.made('findSurfaceFaults').length, edit.isLooking()]).toEqual([1, true]);
    server.made('findSurfaceFaults')[0]!.answer.next([spike]);
    server.made('findSurfaceFaults')[0]!.answer.complete();
    expect([edit.faults(), edit.isLooking()]).toEqual([[spike], false]);
  });

  test('is shown where it is: close for a spike, as wide as a hole', async () => {
    found();
    edit.show(spike);
    edit.show(hole);
    expect(cameras.looked).toEqual([
      [[110, 210, 14], 24],
      [[120, 220, 12], 40],
    ]);
    TestBed.tick();
    await turn();
    expect(TestBed.inject(PlanMarks).all()).toEqual([
      { key: 'surface-fault', kind: 'ring', easting: 120, northing: 220 },
    ]);
    TestBed.inject(ViewStore).takeTool('look');
    TestBed.tick();
    expect(TestBed.inject(PlanMarks).all()).toEqual([]);
  });

  test('a spike that is removed leaves the list', () => {
    found();
    edit.show(spike);
    edit.takeOut(spike);
    expect(asked('startOperation')).toEqual([{ surfaceId: 4, edits: [{ kind: 'take-out', place: [110, 210] }] }]);
    expect([edit.faults(), edit.currentFault()]).toEqual([[hole], undefined]);
  });

  test('that cannot be looked for is told', () => {
    edit.look();
    server.made('findSurfaceFaults')[0]!.answer.error(new Error('The surface is gone.'));
    expect([edit.fault(), edit.isLooking(), edit.faults()]).toEqual(['The surface is gone.', false, undefined]);
  });
});
