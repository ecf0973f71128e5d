// @vitest-environment jsdom
import { Screen } from '../screen.fixture';
import { openViews, ORIGIN, pointer, type OpenedViews } from './views.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { ControlStore } from '../state/control-store';
import { cloud } from '../stores.fixture';
import { ContourLabels } from './contour-labels';
import { PlanCovers } from './plan-covers';
import { PlanMarks } from './plan-marks';
import { PlanOverlayComponent } from './plan-overlay.component';

let opened: OpenedViews;
let screen: Screen<PlanOverlayComponent>;
const [E0, N0] = ORIGIN;
const look = signal<{ points: object[] } | undefined>(undefined);
const labels = signal<ReadonlyMap<number, readonly object[]>>(new Map());
const surveyed = (id: number, e: number, n: number, more: object = {}): object => ({
  id, number: `P${id}`, easting: E0 + e, northing: N0 + n, role: 'control', difference: 0.01, ...more,
}); // prettier-ignore

beforeEach(async () => {
  look.set(undefined);
  labels.set(new Map());
  // The handles take the pointer, which a page without a browser has none of.
  Element.prototype.setPointerCapture ??= () => undefined;
  opened = openViews(
    {
      clouds: [cloud({ id: 1, bounds: { min: [E0, N0, 28], max: [E0 + 400, N0 + 200, 45] } as never })],
      pins: [{ id: 3, kind: 'note', name: 'Old well', body: { place: [E0 + 210, N0 + 110, 31] } }] as never,
    },
    {
      providers: [
        { provide: ControlStore, useValue: { look } },
        { provide: ContourLabels, useValue: { all: labels } },
      ],
    },
  );
  // Half a metre a pixel about the middle of the land: the middle pixel is 200, 100.
  opened.cameras.plan.set({ x: 200, y: 100, unitsPerPixel: 0.5, low: 0, high: 50 });
  await opened.settled();
  screen = await Screen.of(PlanOverlayComponent);
});
const placesOf = (selector: string): number[][] =>
  screen.all(selector).map((element) =>
    element
      .getAttribute('transform')!
      .match(/-?[\d.]+/g)!
      .map(Number),
  );

describe('what lies over Plan', () => {
  test('the edge of the square, in a job that is one of a larger site', async () => {
    expect(screen.has('square-edge')).toBe(false);
    const job = opened.job.workbench()!;
    const land = { west: E0 + 100, south: N0, east: E0 + 300, north: N0 + 200 };
    opened.job.workbench.set({ ...job, job: { ...job.job, square: { land, side: 200, margin: 50 } } });
    await screen.settled();
    const corners = screen.one('square-edge').getAttribute('points')!.split(' ').map((pair) => pair.split(',').map(Number)); // prettier-ignore
    // Half a metre a pixel: 400 by 400 pixels, the first corner in the north-west.
    expect([corners[1]![0]! - corners[0]![0]!, corners[2]![1]! - corners[1]![1]!]).toEqual([400, 400]);
    expect(screen.text).toContain('Edge of this square');
  });

  test('a scale that is a round length, as long as it says', () => {
    const bar = screen.one('.chequer');
    const [, value] = /^(\d+) m$/.exec(screen.texts('.end')[0]!)!;
    expect(Number.parseFloat(bar.style.width)).toBeCloseTo(Number(value) / 0.5, 6);
    expect(String(value)).toMatch(/^[125]0*$/);
  });

  test('surveyed points in view, north up, each a cross with its number; check points look otherwise', async () => {
    look.set({ points: [surveyed(1, 200, 100), surveyed(2, 210, 110, { role: 'check', difference: undefined }), surveyed(3, 5000, 0)] }); // prettier-ignore
    await screen.settled();
    expect(placesOf('.control')).toEqual([[500, 400], [520, 380]]); // prettier-ignore
    expect(screen.texts('.control text')).toEqual(['P1', 'P2']);
    const [plus, cross] = screen.all('.control path:last-of-type').map((path) => path.getAttribute('d'));
    expect(plus).not.toBe(cross);
    // The cloud says nothing there.
    expect(screen.all('.control.missing')).toHaveLength(1);
  });

  test('many points are not named: nothing could be read', async () => {
    look.set({ points: Array.from({ length: 61 }, (_, k) => surveyed(k, 150 + k, 100)) });
    await screen.settled();
    expect([screen.all('.control').length, screen.all('.control text').length]).toEqual([61, 0]);
  });

  test('elevations of contours never lie over one another, nor over a surveyed point', async () => {
    const label = (e: number, text: string): object => ({ easting: E0 + e, northing: N0 + 100, elevation: 30, degrees: 0, text, height: 2 }); // prettier-ignore
    labels.set(new Map([[5, [label(200, '31'), label(203, '32'), label(240, '33')]]]));
    await screen.settled();
    expect(screen.texts('.contour-label')).toEqual(['31', '33']);
    look.set({ points: [surveyed(1, 200, 100)] });
    await screen.settled();
    // The first stood where the point now is, so that the second has room again.
    expect(screen.texts('.contour-label')).not.toContain('31');
    expect(screen.texts('.contour-label')).toContain('33');
  });

  test('labels stay readable however far one zooms out, and small however near', async () => {
    labels.set(new Map([[5, [{ easting: E0 + 200, northing: N0 + 100, degrees: 30, text: '31', height: 2 }]]]));
    for (const [unitsPerPixel, size] of [
      [10, 9],
      [0.2, 10],
      [0.01, 13],
    ] as const) {
      // prettier-ignore
      opened.cameras.plan.update((camera) => ({ ...camera, unitsPerPixel }));
      await screen.settled();
      expect(Number(screen.one('.contour-label').getAttribute('font-size'))).toBeCloseTo(size, 6);
      // Anticlockwise from east on the land is clockwise negative on the screen.
      expect(screen.one('.contour-label').getAttribute('transform')).toMatch(/rotate\(-30\)$/);
    }
  });

  test('notes where they were pinned', () => {
    expect(placesOf('.note')).toEqual([[520, 380]]);
    expect(screen.texts('.note text')).toEqual(['Old well']);
  });

  test('what stages point at: areas wherever they are, dots and rings in view alone', async () => {
    const mark = (key: string, kind: string, e: number) => ({
      key, kind, easting: E0 + e, northing: N0 + 100, outline: [[E0, N0], [E0 + 10, N0], [E0, N0 + 10]],
    }); // prettier-ignore
    TestBed.inject(PlanMarks).set('x', [mark('a', 'area', 9000), mark('b', 'dot', 200), mark('c', 'ring', 210), mark('d', 'dot', 9000)] as never); // prettier-ignore
    await screen.settled();
    expect([screen.all('polygon.pointed').length, screen.all('.pointed-dot').length, screen.all('circle.pointed').length]).toEqual([1, 1, 1]); // prettier-ignore
    expect(screen.one('polygon.pointed').getAttribute('points')).toBe('100,600 120,600 100,580');
  });

  test('covered land is one path with its islands left free', async () => {
    const ring = (...places: number[][]) => ({ places: places.map(([e, n]) => [E0 + e!, N0 + n!]) });
    TestBed.inject(PlanCovers).set('mask', [
      { key: 'k', look: 'preview', rings: [ring([200, 100], [220, 100], [220, 120]), ring([210, 105], [212, 105], [212, 107])] },
    ] as never); // prettier-ignore
    await screen.settled();
    const cover = screen.one('path.cover');
    expect(cover.getAttribute('d')!.match(/M[^M]*Z/g)).toHaveLength(2);
    expect([cover.getAttribute('fill-rule'), cover.classList.contains('preview')]).toEqual(['evenodd', true]);
  });
});

describe('the section’s line', () => {
  beforeEach(async () => {
    opened.views.section.set({ a: [E0 + 100, N0 + 100], b: [E0 + 300, N0 + 100] });
    opened.views.sectionDepth.set(20);
    await opened.settled();
    await screen.settled();
  });
  const drag = async (handle: HTMLElement, dx: number, dy: number): Promise<void> => {
    handle.dispatchEvent(pointer('pointerdown', 300, 300));
    handle.dispatchEvent(pointer('pointermove', 300 + dx, 300 + dy));
    handle.dispatchEvent(pointer('pointerup', 300 + dx, 300 + dy));
    // Nothing follows a pointer that was let go.
    handle.dispatchEvent(pointer('pointermove', 900, 900));
    await screen.settled();
  };
  const line = () => opened.views.section()!;

  test('has its band, as deep as the section, and its ends by name', () => {
    expect(screen.one('polygon.band').getAttribute('points')).toMatch(/^\d/);
    const rows = screen.one('polygon.band').getAttribute('points')!.split(' ').map((pair) => Number(pair.split(',')[1])); // prettier-ignore
    // 20 m across at half a metre a pixel.
    expect(Math.max(...rows) - Math.min(...rows)).toBeCloseTo(40, 6);
    expect(screen.texts('svg > text')).toEqual(['A', 'A′']);
  });

  test('an end is dragged alone, the middle takes the whole line along', async () => {
    const [a, b] = screen.all('circle.handle');
    await drag(a!, 20, -40);
    expect(line()).toEqual({ a: [E0 + 110, N0 + 120], b: [E0 + 300, N0 + 100] });
    await drag(b!, -2, 0);
    expect(line()).toEqual({ a: [E0 + 110, N0 + 120], b: [E0 + 299, N0 + 100] });
    await drag(screen.one('section-middle'), 0, 20);
    expect(line()).toEqual({ a: [E0 + 110, N0 + 110], b: [E0 + 299, N0 + 90] });
  });

  test('its edge sets the depth, on both sides alike, and never to nothing', async () => {
    const edge = screen.one('rect.handle');
    // The line runs east, so its left is north: ten pixels up are five metres on one side, ten in all.
    await drag(edge, 0, -10);
    expect(opened.views.sectionDepth()).toBeCloseTo(30, 6);
    await drag(screen.one('rect.handle'), 0, 5000);
    expect(opened.views.sectionDepth()).toBe(0.01);
  });

  test('while a new one is laid, it follows the pointer, and the hint says what is next', async () => {
    opened.views.tool.set('section');
    await screen.settled();
    expect(screen.texts('.hint')[0]).toMatch(/^Click the start of the section\./);
    opened.tool.held.set([[200, 100]]);
    opened.tool.at.set({ view: 'plan', px: 600, py: 400, byKeys: false });
    await screen.settled();
    expect(screen.texts('.hint')[0]).toMatch(/^Click the end of the section\./);
    const cut = screen.one('line.cut');
    // Plan is lower while there is a section below it: its middle is where the line begins.
    const middle = opened.cameras.places().plan.height / 2;
    expect(['x1', 'y1', 'x2', 'y2'].map((name) => Number(cut.getAttribute(name)))).toEqual([500, middle, 600, 400]);
    // It has no handles before it lies.
    expect(screen.all('.handle')).toHaveLength(0);
  });

  test('the pointer in the section is a dot on the line', async () => {
    opened.views.hoverStation.set(50);
    await screen.settled();
    const dot = screen.one('circle.hover');
    expect([dot.getAttribute('cx'), dot.getAttribute('cy')].map(Number)).toEqual([400, expect.anything()]);
  });
});
