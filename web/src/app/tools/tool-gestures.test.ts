// @vitest-environment jsdom
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import type { Shape } from '@pampero/core/selection';
import { NEVER, Subject } from 'rxjs';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { LookStore } from '../state/look-store';
import type { ToolId } from '../state/tool-id';
import { ViewStore } from '../state/view-store';
import { cloud, storesOver, turn, workbench } from '../stores.fixture';
import { DrawingLink } from '../viewer/drawing-link';
import { SectionComparison } from '../viewer/section-comparison';
import { ViewCameras } from '../viewer/view-cameras';
import { MeasureStore } from './measure-store';
import { NotePen } from './note-pen';
import { PatchStore } from './patch-store';
import { SectionPen } from './section-pen';
import { SelectionPen } from './selection-pen';
import { SelectionStore } from './selection-store';
import { ToolGestures } from './tool-gestures';

let gestures: ToolGestures;
let views: ViewStore;
let selection: SelectionStore;
let said: string[];
/** The point under the pointer, if there is one. */
let under: { easting: number; northing: number; elevation: number } | undefined;

beforeEach(() => {
  under = { easting: 10, northing: 20, elevation: 5 };
  const link = {
    pictures$: new Subject(),
    setSelection: () => undefined,
    pick: () => Promise.resolve(under),
    ask: () => Promise.resolve(undefined),
  };
  ({ said } = storesOver(
    () => undefined,
    [
      JobStore,
      LayerStore,
      LookStore,
      ViewStore,
      SectionComparison,
      ViewCameras,
      MeasureStore,
      SelectionStore,
      PatchStore,
      NotePen,
      SectionPen,
      SelectionPen,
      ToolGestures,
      { provide: DrawingLink, useValue: link },
      { provide: MatDialog, useValue: { open: () => ({ afterClosed: () => NEVER }) } },
    ],
  ));
  TestBed.inject(JobStore).workbench.set(workbench({ clouds: [cloud({ id: 1 })] }));
  views = TestBed.inject(ViewStore);
  selection = TestBed.inject(SelectionStore);
  gestures = TestBed.inject(ToolGestures);
  TestBed.inject(ApplicationRef).tick();
});

const take = (tool: ToolId): void => {
  views.tool.set(tool);
  TestBed.inject(ApplicationRef).tick();
};
const at = (px: number, py: number, more = {}) => ({
  view: 'plan' as const,
  px,
  py,
  shift: false,
  alt: false,
  ...more,
});
const click = (px: number, py: number, more = {}): void => {
  gestures.down(at(px, py, more));
  gestures.up(at(px, py, more));
};
const dragged = (...path: [number, number][]): void => {
  gestures.down(at(...path[0]!));
  for (const [x, y] of path.slice(1)) gestures.move(at(x, y));
  gestures.up(at(...path.at(-1)!));
};
const key = (name: string, more: Partial<KeyboardEvent> = {}): boolean =>
  gestures.keyed({ key: name, shiftKey: false, altKey: false, ...more } as KeyboardEvent, 'plan');
const last = (): Shape => selection.steps().at(-1)!.shape;
/** Corners of the last outline, as pixels of the view it was drawn in. */
const corners = (): number[][] => {
  const shape = last() as Extract<Shape, { kind: 'outline' }>;
  const { width, height } = TestBed.inject(ViewCameras).places().plan;
  const [dx, dy] = [(shape.view.width - width) / 2, (shape.view.height - height) / 2];
  return shape.corners.map(([x, y]) => [Math.round(x - dx), Math.round(y - dy)]);
};

describe('an outline', () => {
  beforeEach(() => take('outline'));

  test('is clicked corner by corner and closed by a click on the first', () => {
    for (const [x, y] of [[100, 100], [200, 100], [200, 200], [103, 102]] as const) click(x, y); // prettier-ignore
    expect(corners()).toEqual([[100, 100], [200, 100], [200, 200]]); // prettier-ignore
    expect(gestures.held()).toEqual([]);
  });

  test('is not closed by two corners', () => {
    for (const [x, y] of [[100, 100], [200, 100], [101, 101]] as const) click(x, y); // prettier-ignore
    expect(selection.isEmpty()).toBe(true);
    expect(gestures.held()).toHaveLength(3);
  });

  test('a double click ends it, without the corner that its second click put', () => {
    for (const [x, y] of [[100, 100], [200, 100], [200, 200], [100, 200], [100, 200]] as const) click(x, y); // prettier-ignore
    gestures.doubleClick(at(100, 200));
    expect(corners()).toHaveLength(4);
  });

  test('is drawn freehand by dragging', () => {
    dragged(...Array.from({ length: 20 }, (_, k): [number, number] => [100 + 10 * k, 100 + (k % 2) * 40]));
    expect(corners().length).toBeGreaterThan(15);
  });

  test('stays where it was drawn when the view moves meanwhile', () => {
    const cameras = TestBed.inject(ViewCameras);
    click(100, 100);
    const [x, y] = [cameras.plan().x, cameras.plan().y];
    cameras.plan.update((c) => ({ ...c, x: x + 50 * c.unitsPerPixel, y }));
    expect(gestures.pixels()[0]).toEqual([50, 100]);
  });

  test('another tool in hand lets it go; Backspace takes back a corner, Escape all, then the tool', () => {
    click(100, 100);
    click(200, 100);
    expect(key('Backspace')).toBe(true);
    expect(gestures.held()).toHaveLength(1);
    expect([key('Escape'), gestures.held().length, views.tool()]).toEqual([true, 0, 'outline']);
    expect([key('Escape'), views.tool()]).toEqual([true, 'look']);
    take('outline');
    click(100, 100);
    take('box');
    expect(gestures.held()).toEqual([]);
  });
});

describe('other shapes', () => {
  test('a box by dragging, or by keys from corner to corner; a press that goes nowhere is none', () => {
    take('box');
    click(100, 100);
    expect(selection.isEmpty()).toBe(true);
    dragged([100, 100], [150, 120], [200, 180]);
    expect(corners()).toEqual([[100, 100], [200, 100], [200, 180], [100, 180]]); // prettier-ignore
    selection.clear();
    key(' ');
    key('ArrowRight', { shiftKey: true });
    key('ArrowDown', { shiftKey: true });
    key(' ');
    const [first, , opposite] = corners();
    expect([opposite![0]! - first![0]!, opposite![1]! - first![1]!]).toEqual([50, 50]);
  });

  test('a stroke of the brush is as wide as the brush, whatever its path', () => {
    take('brush');
    selection.brushRadius.set(20);
    dragged([100, 100], [120, 100], [140, 100]);
    const stroke = last() as Extract<Shape, { kind: 'stroke' }>;
    expect([stroke.kind, stroke.radius, stroke.path.length]).toEqual(['stroke', 20, 3]);
    expect(key(']')).toBe(true);
    expect(selection.brushRadius()).toBe(25);
  });

  test('Shift adds and Alt takes away, whatever is set', () => {
    take('box');
    dragged([100, 100], [150, 150]);
    const corner = (shift: boolean, alt: boolean): void => {
      gestures.down(at(300, 300, { shift, alt }));
      gestures.move(at(350, 350, { shift, alt }));
      gestures.up(at(350, 350, { shift, alt }));
    };
    corner(true, false);
    corner(false, true);
    expect(selection.steps().map(({ how }) => how)).toEqual(['add', 'add', 'take']);
  });

  test('by keys: arrows move a cross from the middle, Space puts corners, Enter ends', () => {
    take('outline');
    const { width, height } = TestBed.inject(ViewCameras).places().plan;
    key(' ');
    key('ArrowRight', { shiftKey: true });
    key(' ');
    key('ArrowDown', { altKey: true });
    key('ArrowDown', { shiftKey: true });
    key(' ');
    key('Enter');
    const [x, y] = [width / 2, height / 2];
    expect(corners()).toEqual([[x, y], [x + 50, y], [x + 50, y + 51]]); // prettier-ignore
  });

  test('a key that is none of the tool’s is left to the views', () => {
    expect(key('ArrowLeft')).toBe(false);
    take('outline');
    expect(key('z')).toBe(false);
    expect(gestures.keyed({ key: 'ArrowLeft' } as KeyboardEvent, 'section')).toBe(true);
    take('section');
    expect(gestures.keyed({ key: 'ArrowLeft' } as KeyboardEvent, 'section')).toBe(false);
  });
});

describe('a section', () => {
  test('lies between two clicks, in full coordinates, and the tool is put away', () => {
    take('section');
    const cameras = TestBed.inject(ViewCameras);
    cameras.origin.set([5_512_000, 6_150_000, 30]);
    click(100, 300);
    click(300, 300);
    const { a, b } = views.section()!;
    expect(b[0] - a[0]).toBeCloseTo(200 * cameras.plan().unitsPerPixel, 9);
    expect(a[0]).toBeGreaterThan(5_511_000);
    expect(views.tool()).toBe('look');
  });

  test('with both ends at one place is refused', () => {
    take('section');
    click(100, 300);
    click(101, 300);
    expect(views.section()).toBeUndefined();
    expect(said[0]).toMatch(/same place/);
  });
});

describe('clicks on points', () => {
  test('a measure goes from point to point', async () => {
    take('measure');
    click(100, 100);
    await turn(1);
    under = { easting: 13, northing: 24, elevation: 5 };
    click(120, 100);
    await turn(1);
    const measures = TestBed.inject(MeasureStore);
    expect(measures.places()).toEqual([[10, 20, 5], [13, 24, 5]]); // prettier-ignore
    // The 3-4-5 triangle.
    expect(measures.rows()[0]).toEqual({ label: 'Slope distance', value: '5.000\u2009m' });
    expect(key('Enter')).toBe(true);
    expect(measures.isEnded()).toBe(true);
  });

  test('where there is no point it is said, and nothing is measured', async () => {
    take('measure');
    under = undefined;
    click(100, 100);
    await turn(1);
    expect(said[0]).toMatch(/no point here/);
  });

  test('a tool of a stage is told where Plan was clicked, and of no other view', () => {
    const places: (readonly [number, number])[] = [];
    gestures.onClick('triangles', (place) => places.push(place));
    take('triangles');
    click(100, 100);
    gestures.down(at(100, 100, { view: 'section' }));
    gestures.up(at(100, 100, { view: 'section' }));
    expect(places).toHaveLength(1);
  });
});
