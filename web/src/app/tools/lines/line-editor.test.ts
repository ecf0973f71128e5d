// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { LineIndex, shapeOf, type LineShape } from '@pampero/core/lines';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { JobStore } from '../../state/job-store';
import { LineStore, type CodedLine } from '../../state/line-store';
import { storesOver } from '../../stores.fixture';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { ViewCameras } from '../../viewer/view-cameras';
import { ToolGestures } from '../tool-gestures';
import type { ToolHandler } from '../tool-handler';
import { LineEditor } from './line-editor';
import { LineHits } from './line-hits';
import { LinePlaces, type FoundPlace } from './line-places';

/** A pixel is a place; what is selected lies within eight of it. */
const line = (key: number, code: string, isClosed: boolean, ...corners: [number, number, number][]): CodedLine => ({
  ...shapeOf(
    corners.map(([e, n, z]) => ({ e, n, z, source: 2 })),
    isClosed,
  ),
  key,
  entry: 1,
  code,
});
const KERB = line(1, 'KERB', false, [0, 0, 10], [100, 0, 11], [200, 0, 12]);
const WALL = line(2, 'WALL', false, [150, 100, 10], [150, 40, 10]);
const POND = line(3, 'POND', true, [300, 300, 5], [400, 300, 5], [400, 400, 5], [300, 400, 5]);
const NEXT = line(4, 'KERB', false, [200, 1, 12], [260, 1, 13]);

interface PutLine {
  code: string;
  shape: LineShape;
  key?: number | undefined;
}
const put = vi.fn<(lines: PutLine[], remove: number[], what: string) => void>();
const shown = signal<readonly CodedLine[]>([]);
let found: FoundPlace | undefined;
let editor: LineEditor;
let handler: ToolHandler;
let said: string[];

const event = (px: number, py: number, more: Partial<ToolEvent> = {}): ToolEvent => ({ view: 'plan', px, py, shift: false, alt: false, ...more }); // prettier-ignore
const click = (px: number, py: number, more: Partial<ToolEvent> = {}): unknown => handler.click!(event(px, py, more));
const key = (name: string): boolean => handler.keyed!({ key: name } as KeyboardEvent, 'plan');
const lastPut = (): { lines: PutLine[]; removed: number[]; what: string } => {
  const [lines, removed, what] = put.mock.lastCall!;
  return { lines, removed, what };
};
const eastings = (at = 0): number[] => [...lastPut().lines[at]!.shape.easting];
const northings = (): number[] => [...lastPut().lines[0]!.shape.northing];
const keys = (): number[] => [...editor.keys()];

beforeEach(() => {
  put.mockClear();
  found = undefined;
  shown.set([KERB, WALL, POND, NEXT]);
  ({ said } = storesOver(
    () => undefined,
    [
      JobStore,
      LineEditor,
      LineHits,
      { provide: ToolGestures, useValue: { handle: (_: string, given: ToolHandler) => (handler = given) } },
      {
        provide: LineStore,
        useValue: {
          put,
          show: () => undefined,
          shownLines: shown,
          byKey: () => new Map(shown().map((one) => [one.key, one])),
          index: () => new LineIndex(shown()),
        },
      },
      { provide: ViewCameras, useValue: { plan: () => ({ unitsPerPixel: 1 }) } },
      {
        provide: LinePlaces,
        useValue: {
          planPlace: (_: string, px: number, py: number) => ({ e: px, n: py }),
          pixelOf: (_: string, { e, n }: { e: number; n: number }) => [e, n],
          find: () => Promise.resolve(found),
        },
      },
    ],
  ));
  editor = TestBed.inject(LineEditor);
});

describe('lines are selected', () => {
  test('by a click near one; shift adds and takes away; a click on nothing lets all go', () => {
    click(50, 6);
    expect(keys()).toEqual([1]);
    click(150, 70, { shift: true });
    expect(keys()).toEqual([1, 2]);
    click(50, -5, { shift: true });
    expect(keys()).toEqual([2]);
    click(600, 600, { shift: true });
    expect(keys()).toEqual([2]);
    click(600, 600);
    expect(keys()).toEqual([]);
  });

  test('the nearer of two, and none from further than a few pixels', () => {
    click(100, 9);
    expect(keys()).toEqual([]);
    shown.set([KERB, line(9, 'NEAR', false, [0, 5, 0], [100, 5, 0])]);
    click(40, 4);
    expect(keys()).toEqual([9]);
  });

  test('in Model, where it is seen', () => {
    click(350, 301, { view: 'model' });
    expect(keys()).toEqual([3]);
    // The leg that closes it, too.
    editor.clear();
    click(299, 350, { view: 'model' });
    expect(keys()).toEqual([3]);
  });

  test('one that is gone is selected no more', async () => {
    editor.select([1, 2]);
    shown.set([WALL]);
    await vi.waitFor(() => expect(keys()).toEqual([2]));
  });
});

describe('a vertex', () => {
  beforeEach(() => editor.select([1]));

  test('is dragged to where the magnets say, and keeps the line’s key and code', async () => {
    handler.down!(event(101, 1));
    expect(editor.active()).toEqual({ key: 1, corner: 1 });
    found = { e: 110, n: 20, z: 15, source: 1 };
    handler.move!(event(110, 20));
    await vi.waitFor(() => expect(editor.dragged()).toEqual(found));
    expect(put).not.toHaveBeenCalled();
    handler.up!(event(110, 20));
    const { lines, removed, what } = lastPut();
    expect(lines).toMatchObject([{ key: 1, code: 'KERB' }]);
    expect(eastings()).toEqual([0, 110, 200]);
    expect([...lines[0]!.shape.elevation]).toEqual([10, 15, 12]);
    expect([...lines[0]!.shape.source]).toEqual([2, 1, 2]);
    expect([removed, what]).toEqual([[], 'Vertex moved, KERB']);
  });

  test('pressed and let go where it was changes nothing', async () => {
    handler.down!(event(100, 0));
    found = { e: 100, n: 0, z: 99, source: 1 };
    handler.move!(event(100, 0));
    await vi.waitFor(() => expect(editor.dragged()).toBeDefined());
    handler.up!(event(100, 0));
    handler.down!(event(100, 0));
    handler.up!(event(100, 0));
    expect(put).not.toHaveBeenCalled();
  });

  test('typed coordinates: an elevation that was typed says so, a place leaves where the elevation is from', () => {
    editor.active.set({ key: 1, corner: 2 });
    expect(editor.activeCorner()).toMatchObject({ e: 200, n: 0, z: 12, from: 'measured point' });
    editor.setCorner({ e: 210 });
    expect(eastings()).toEqual([0, 100, 210]);
    expect(lastPut().lines[0]!.shape.source[2]).toBe(2);
    editor.setCorner({ z: 20 });
    expect(lastPut().lines[0]!.shape.elevation[2]).toBe(20);
    expect(lastPut().lines[0]!.shape.source[2]).not.toBe(2);
  });

  test('is put in by a double click between two, at the elevation between them, and on the leg after the one in hand', () => {
    handler.doubleClick!(event(150, 2));
    expect(eastings()).toEqual([0, 100, 150, 200]);
    expect(lastPut().lines[0]!.shape.elevation[2]).toBeCloseTo(11.5, 9);
    expect(editor.active()).toEqual({ key: 1, corner: 2 });
    editor.active.set({ key: 1, corner: 0 });
    editor.addCorner();
    expect(eastings()).toEqual([0, 50, 100, 200]);
    // The last vertex has no leg after it: the one before is halved.
    editor.active.set({ key: 1, corner: 2 });
    editor.addCorner();
    expect(eastings()).toEqual([0, 100, 150, 200]);
  });

  test('is put into selected lines only', () => {
    handler.doubleClick!(event(150, 70));
    expect(put).not.toHaveBeenCalled();
  });

  test('is taken out by Delete; of the last two none', () => {
    editor.active.set({ key: 1, corner: 1 });
    expect(key('Delete')).toBe(true);
    expect(eastings()).toEqual([0, 200]);
    expect(editor.active()).toBeUndefined();
    put.mockClear();
    editor.select([2]);
    editor.active.set({ key: 2, corner: 0 });
    key('Backspace');
    expect(put).not.toHaveBeenCalled();
    expect(said.at(-1)).toBe('A line needs two vertices. Remove the line instead.');
  });

  test('full stop and comma walk from one to the next and round', () => {
    const walked = ['.', '.', '.', '.', ','].map((name) => {
      key(name);
      return editor.active()!.corner;
    });
    expect(walked).toEqual([0, 1, 2, 0, 2]);
  });
});

describe('lines are changed', () => {
  test('split at the vertex in hand: the first part stays the line, the second is new; not at an end', () => {
    editor.select([1]);
    editor.active.set({ key: 1, corner: 1 });
    editor.split();
    expect(lastPut().lines.map(({ key: of, code }) => [of, code])).toEqual([[1, 'KERB'], [undefined, 'KERB']]); // prettier-ignore
    expect([eastings(0), eastings(1)]).toEqual([
      [0, 100],
      [100, 200],
    ]);
    put.mockClear();
    editor.active.set({ key: 1, corner: 2 });
    editor.split();
    expect(put).not.toHaveBeenCalled();
    expect(said.at(-1)).toBe('Choose a vertex between the ends.');
  });

  test('joined at the ends that are nearest: one vertex where they meet, a leg where they do not; the other line is gone', () => {
    editor.select([1, 4]);
    editor.join();
    expect(eastings()).toEqual([0, 100, 200, 260]);
    expect(lastPut().removed).toEqual([4]);
    expect(keys()).toEqual([1]);
    editor.select([1, 2]);
    editor.join();
    expect(eastings()).toEqual([0, 100, 200, 150, 150]);
    expect(lastPut().removed).toEqual([2]);
    // A closed line has no ends.
    put.mockClear();
    editor.select([1, 3]);
    editor.join();
    expect(put).not.toHaveBeenCalled();
    expect([keys(), said]).toEqual([[1, 3], [expect.stringContaining('closed')]]);
  });

  test('extended to another by the end that is nearer; a click on nothing asks again; Escape gives it up', () => {
    editor.select([2]);
    editor.wantsLine.set('extend');
    click(600, 600);
    expect(said.at(-1)).toContain('no line here');
    expect(editor.wantsLine()).toBe('extend');
    click(120, 2);
    expect(northings().map((n) => Math.round(n * 1e9) / 1e9 + 0)).toEqual([100, 40, 0]);
    expect(editor.wantsLine()).toBeUndefined();
    editor.wantsLine.set('trim');
    expect(key('Escape')).toBe(true);
    expect([editor.wantsLine(), keys()]).toEqual([undefined, [2]]);
  });

  test('trimmed at another', () => {
    const across = line(5, 'FENCE', false, [120, -30, 1], [120, 80, 2]);
    shown.set([KERB, across]);
    editor.select([5]);
    editor.wantsLine.set('trim');
    click(30, 1);
    expect(lastPut().what).toBe('Line trimmed, FENCE');
    expect(northings().map((n) => Math.round(n * 1e9) / 1e9 + 0)).toEqual([0, 80]);
  });

  test('turned round, several at once; another code; removed', () => {
    editor.select([1, 2]);
    editor.turn();
    expect([eastings(0), lastPut().what]).toEqual([[200, 100, 0], '2 lines reversed']);
    editor.setCode('EDGE');
    expect(lastPut().lines.map(({ key: of, code }) => [of, code])).toEqual([[1, 'EDGE'], [2, 'EDGE']]); // prettier-ignore
    editor.active.set(undefined);
    key('Delete');
    expect([lastPut().removed, lastPut().what, keys()]).toEqual([[1, 2], '2 lines removed', []]);
  });

  test('Escape lets go of one thing after the other, and then is not the tool’s', () => {
    editor.select([1]);
    editor.active.set({ key: 1, corner: 0 });
    expect([key('Escape'), editor.active(), keys()]).toEqual([true, undefined, [1]]);
    expect([key('Escape'), keys()]).toEqual([true, []]);
    expect(key('Escape')).toBe(false);
    expect(key('q')).toBe(false);
  });
});
