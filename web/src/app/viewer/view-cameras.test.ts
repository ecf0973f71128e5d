// @vitest-environment jsdom
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { ViewStore } from '../state/view-store';
import { cloud, storesOver, workbench } from '../stores.fixture';
import { SectionComparison } from './section-comparison';
import { drawnView } from './drawn-view';
import { EXAGGERATIONS } from './section-framing';
import { ViewCameras } from './view-cameras';

let cameras: ViewCameras;
let views: ViewStore;
const tick = (): void => TestBed.inject(ApplicationRef).tick();
const ORIGIN = [5_512_000, 6_150_000, 30] as const;

beforeEach(() => {
  storesOver(() => undefined, [JobStore, LayerStore, ViewStore, SectionComparison, ViewCameras]);
  const bounds = { min: [5_512_000, 6_150_000, 28], max: [5_512_400, 6_150_200, 45] } as never;
  TestBed.inject(JobStore).workbench.set(workbench({ clouds: [cloud({ id: 1, bounds })] }));
  views = TestBed.inject(ViewStore);
  cameras = TestBed.inject(ViewCameras);
  cameras.origin.set(ORIGIN);
  cameras.size.set({ width: 720, height: 700 });
  cameras.frameAll();
  tick();
});
const lay = (a: [number, number], b: [number, number]): void => {
  views.section.set({ a: [ORIGIN[0] + a[0], ORIGIN[1] + a[1]], b: [ORIGIN[0] + b[0], ORIGIN[1] + b[1]] });
  tick();
};

describe('views', () => {
  test('the whole job fits in Plan, with a margin', () => {
    for (const [e, n] of [
      [0, 0],
      [400, 200],
    ] as const) {
      // prettier-ignore
      const [x, y] = cameras.project('plan', [ORIGIN[0] + e, ORIGIN[1] + n, 30])!;
      expect([x >= 0 && x <= 720, y >= 0 && y <= 700]).toEqual([true, true]);
    }
  });

  test('what is held stays put while the view moves', () => {
    const held = cameras.hold('plan', 200, 300);
    cameras.drag('plan', 35, -20, false);
    expect(cameras.pixelOf('plan', held)).toEqual([expect.closeTo(235, 6), expect.closeTo(280, 6)]);
  });

  test('coordinates of seven digits keep their millimetres', () => {
    const [px, py] = cameras.project('plan', [ORIGIN[0] + 123.456, ORIGIN[1] + 78.912, 31])!;
    const [x, y] = cameras.hold('plan', px, py);
    expect([x, y]).toEqual([expect.closeTo(123.456, 6), expect.closeTo(78.912, 6)]);
  });

  test('sections take a third of the height, and none where there is none', () => {
    expect(cameras.sectionsHeight()).toBe(0);
    lay([10, 100], [110, 100]);
    expect(cameras.shown()).toEqual(['plan', 'section']);
    expect(cameras.sectionsHeight() / 700).toBeCloseTo(0.36, 2);
    views.section.set(undefined);
    tick();
    expect(cameras.shown()).toEqual(['plan']);
  });

  test('a section walks across its line by its step, and further with Shift', () => {
    lay([10, 100], [110, 100]);
    views.sectionDepth.set(2);
    cameras.step('section', 0, 1, false);
    expect(views.section()!.a).toEqual([ORIGIN[0] + 10, ORIGIN[1] + 102]);
    cameras.step('section', 1, 0, true);
    expect(views.section()!.a[0]).toBe(ORIGIN[0] + 30);
  });

  test('a fault of 0.3 m is plain: it takes a third of the section, drawn out no more than it must be', () => {
    lay([46, 100], [54, 100]);
    cameras.frameSectionOn(31, 0.3);
    const camera = cameras.section()!;
    const { height } = cameras.places().section;
    const pixels = (0.3 * camera.exaggeration) / camera.unitsPerPixel;
    expect(pixels).toBeGreaterThanOrEqual(height / 3);
    const less = EXAGGERATIONS[EXAGGERATIONS.indexOf(camera.exaggeration) - 1];
    if (less !== undefined) expect((0.3 * less) / camera.unitsPerPixel).toBeLessThan(height / 3);
    // Its elevation is in the middle.
    expect(camera.z + ORIGIN[2]).toBeCloseTo(31, 9);
    const [, y] = cameras.project('section', [ORIGIN[0] + 50, ORIGIN[1] + 100, 31])!;
    expect(y).toBeCloseTo(height / 2, 6);
  });

  test('looked at from the other side, the section’s ends change places', () => {
    lay([10, 100], [110, 100]);
    cameras.turnSection();
    expect([views.section()!.a[0], views.section()!.b[0]]).toEqual([ORIGIN[0] + 110, ORIGIN[0] + 10]);
  });

  test('a shape drawn past the edge of Plan keeps its places', () => {
    const { view, shift } = drawnView(cameras, 'plan', [[-100, 50], [300, 900]]); // prettier-ignore
    expect(view.width).toBeGreaterThanOrEqual(720 + 2 * 100);
    expect(view.height).toBeGreaterThanOrEqual(2 * (900 - 350));
    expect([-100 + shift[0] >= 0, 900 + shift[1] <= view.height]).toEqual([true, true]);
  });
});
