// @vitest-environment jsdom
import { openViews, ORIGIN, type OpenedViews } from './views.fixture';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { LayerStore } from '../state/layer-store';
import { cloud, surface } from '../stores.fixture';
import { PointerReadout } from './pointer-readout';

let opened: OpenedViews;
let readout: PointerReadout;
const [E0, N0] = ORIGIN;
const bounds = { min: [E0, N0, 28], max: [E0 + 400, N0 + 200, 45] } as never;

beforeEach(async () => {
  opened = openViews({ clouds: [cloud({ id: 1, bounds })], products: [surface(7)] }, { providers: [PointerReadout] });
  readout = TestBed.inject(PointerReadout);
  opened.cameras.plan.set({ x: 200, y: 100, unitsPerPixel: 0.5, low: 0, high: 50 });
  await opened.settled();
});
const cursor = () => opened.views.cursor();

describe('over Plan', () => {
  test('the place is told at once, the point under it when the worker has found it', async () => {
    readout.at('plan', 500, 400);
    expect(cursor()).toEqual({ easting: E0 + 200, northing: N0 + 100 });
    const [picked] = opened.link.questions('pick');
    // Rows are counted from below.
    expect(picked!.about).toEqual({ view: 'plan', column: 500, row: 400 });
    const point = { easting: E0 + 200.1, northing: N0 + 99.9, elevation: 31.2, classCode: 2 };
    picked!.answer(point);
    await opened.settled();
    expect(cursor()).toEqual({ easting: point.easting, northing: point.northing, elevation: 31.2, point });
  });

  test('one question at a time, however fast the pointer moves', async () => {
    for (let k = 0; k < 20; k++) readout.at('plan', 500 + k, 400);
    expect(opened.link.questions('pick')).toHaveLength(1);
    opened.link.questions('pick')[0]!.answer(undefined);
    await opened.settled();
    expect(cursor()).toEqual({ easting: E0 + 209.5, northing: N0 + 100 });
    readout.at('plan', 600, 400);
    expect(opened.link.questions('pick')).toHaveLength(2);
  });

  test('an answer that comes while the view is dragged is not told: the picture has moved', async () => {
    readout.at('plan', 500, 400);
    readout.isMoving = () => true;
    opened.link.questions('pick')[0]!.answer({ easting: 1, northing: 2, elevation: 3 });
    await opened.settled();
    expect(cursor()).toEqual({ easting: E0 + 200, northing: N0 + 100 });
  });

  test('where the surface is drawn, it is asked and not the points; from the last corner of what is drawn', async () => {
    TestBed.inject(LayerStore).showSurface();
    opened.tool.view.set('plan');
    opened.tool.held.set([
      [10, 10],
      [20, 30],
    ]);
    readout.at('plan', 502, 400);
    expect(opened.link.questions('pick')).toHaveLength(0);
    const [asked] = opened.link.questions('surfaceAt');
    expect(asked!.about).toEqual({ at: [201, 100], from: [20, 30] });
    const answer = { elevation: 30.5, slope: 0.1, from: undefined };
    asked!.answer(answer);
    await opened.settled();
    expect(opened.views.underCursor()).toEqual(answer);
    // Points again: what was said of the surface goes.
    TestBed.inject(LayerStore).showing.set('points');
    readout.at('plan', 502, 400);
    expect(opened.views.underCursor()).toBeUndefined();
  });
});

describe('over a section', () => {
  beforeEach(async () => {
    opened.views.section.set({ a: [E0 + 100, N0 + 50], b: [E0 + 100, N0 + 150] });
    await opened.settled();
    opened.cameras.section.update((camera) => ({ ...camera!, station: 50, z: 2, unitsPerPixel: 0.1, exaggeration: 2 }));
  });

  test('station, place on the line and elevation are read off the cut, heights drawn out or not', () => {
    const { width, height } = opened.cameras.places().section;
    readout.at('section', width / 2 + 100, height / 2 - 40);
    // 100 pixels of 0.1 along; 40 pixels of 0.1 up, drawn out twice.
    expect(opened.views.hoverStation()).toBeCloseTo(60, 9);
    expect(cursor()).toEqual({
      easting: expect.closeTo(E0 + 100, 6),
      northing: expect.closeTo(N0 + 110, 6),
      elevation: expect.closeTo(34, 9),
      station: expect.closeTo(60, 9),
    });
    expect(opened.link.asked.filter(({ question }) => question === 'pick')).toHaveLength(0);
  });

  test('the other section, as the ground would be, reads the same', () => {
    const { width, height } = opened.cameras.places().section;
    readout.at('after', width / 2, height / 2);
    expect(cursor()).toMatchObject({ elevation: expect.closeTo(32, 9), station: expect.closeTo(50, 9) });
  });

  test('nothing is under a pointer that has left', () => {
    readout.at('section', 10, 10);
    readout.left();
    expect([cursor(), opened.views.hoverStation(), opened.views.underCursor()]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
  });
});

test('in Model only a point tells where the pointer is', async () => {
  opened.views.cursor.set({ easting: 1, northing: 2 });
  readout.at('model', 30, 40);
  opened.link.questions('pick')[0]!.answer(undefined);
  await opened.settled();
  expect(cursor()).toBeUndefined();
});
