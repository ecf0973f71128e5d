// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { shapeOf, type LineShape } from '@pampero/core/lines';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { LineStore } from '../../state/line-store';
import { JobStore } from '../../state/job-store';
import { ViewStore } from '../../state/view-store';
import { storesOver } from '../../stores.fixture';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { ToolGestures } from '../tool-gestures';
import type { ToolHandler } from '../tool-handler';
import { LinePen } from './line-pen';
import { LinePlaces, type FoundPlace } from './line-places';

/** The land of the test: a pixel is a place, ground lies at 20 and rises 10 % to the east. */
const land = ({ px, py }: { px: number; py: number }): FoundPlace => ({ e: px, n: py, z: 20 + 0.1 * px, source: 2 });
const old = { ...shapeOf([{ e: 0, n: 50, z: 1, source: 2 }, { e: 9, n: 50, z: 2, source: 2 }], false), key: 7, entry: 1, code: 'BREAK' }; // prettier-ignore

let pen: LinePen;
let handler: ToolHandler;
let found: (event: { px: number; py: number }) => FoundPlace | undefined;
let said: string[];
const put =
  vi.fn<(lines: { code: string; shape: LineShape; key?: number }[], remove: number[], what: string) => void>();
const takeTool = vi.fn();
const section = signal<unknown>(undefined);

const event = (px: number, py: number): ToolEvent => ({ view: 'plan', px, py, shift: false, alt: false });
const settle = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 2));
async function click(...places: [number, number][]): Promise<void> {
  for (const [px, py] of places) handler.click!(event(px, py));
  await settle();
}
const key = (name: string): boolean => handler.keyed!({ key: name } as KeyboardEvent, 'plan');

beforeEach(() => {
  found = land;
  put.mockClear();
  section.set(undefined);
  ({ said } = storesOver(
    () => undefined,
    [
      JobStore,
      LinePen,
      { provide: ToolGestures, useValue: { handle: (_: string, given: ToolHandler) => (handler = given) } },
      { provide: ViewStore, useValue: { takeTool, tool: signal('pen'), section } },
      { provide: LineStore, useValue: { put, show: () => undefined, shownLines: () => [old] } },
      {
        provide: LinePlaces,
        useValue: {
          heightSource: signal('nearest'),
          snap: () => undefined,
          find: (_: string, px: number, py: number) => Promise.resolve(found({ px, py })),
        },
      },
    ],
  ));
  pen = TestBed.inject(LinePen);
});

describe('a line is drawn', () => {
  test('clicks put vertices in their order, Enter keeps the line under its code', async () => {
    await click([0, 0], [10, 0], [10, 5]);
    expect(key('Enter')).toBe(true);
    await settle();
    const [[lines, , what]] = put.mock.calls as never as [[{ code: string; shape: LineShape }[], number[], string]];
    expect([...lines[0]!.shape.easting]).toEqual([0, 10, 10]);
    expect([...lines[0]!.shape.elevation]).toEqual([20, 21, 21]);
    expect(lines[0]!.code).toBe('BREAK');
    expect(what).toBe('BREAK drawn, 3 vertices');
    expect(pen.corners()).toEqual([]);
  });

  test('the second click of a double click puts nothing', async () => {
    await click([0, 0], [10, 0], [10, 0]);
    expect(pen.corners()).toHaveLength(2);
  });

  test('Backspace takes one back, Escape all; Enter with one vertex is not the pen’s', async () => {
    await click([0, 0], [10, 0]);
    key('Backspace');
    await settle();
    expect(pen.corners()).toHaveLength(1);
    expect(key('Enter')).toBe(false);
    expect(key('Escape')).toBe(true);
    expect(pen.corners()).toEqual([]);
    expect(key('Escape')).toBe(false);
  });

  test('A closes; a click on the first vertex does as well', async () => {
    await click([0, 0], [10, 0], [10, 5]);
    key('a');
    await settle();
    await click([0, 0], [10, 0], [10, 5], [0, 0]);
    await settle();
    expect(put.mock.calls.map(([[line]]) => line!.shape.isClosed)).toEqual([true, true]);
  });

  test('begun at the end of a line of its code, it goes on with that line', async () => {
    const snap = {
      magnet: 'corner',
      easting: 9,
      northing: 50,
      elevation: 2,
      line: 0,
      corner: 1,
      leg: 0,
      share: 1,
    } as const;
    found = (at) => (at.px === 9 ? { e: 9, n: 50, z: 2, source: 2, pull: 'corner', snap } : land(at));
    await click([9, 50], [20, 50]);
    pen.finish();
    await settle();
    const [[[line]]] = put.mock.calls as never as [[[{ key: number; shape: LineShape }]]];
    expect(line.key).toBe(7);
    expect([...line.shape.easting]).toEqual([0, 9, 20]);
  });

  test('a place without a point is told, and puts nothing', async () => {
    found = () => undefined;
    await click([3, 3]);
    expect(pen.corners()).toEqual([]);
    expect(said.at(-1)).toMatch(/no point here/);
  });
});

describe('what is read while drawing', () => {
  test('elevation, leg and grade, and both from the start', async () => {
    await click([0, 0], [10, 0]);
    handler.move!(event(30, 0));
    await settle();
    const read = new Map(pen.readings().map(({ label, value }) => [label, value.replaceAll(/\s/g, ' ')]));
    expect(read.get('Elevation')).toMatch(/^23\.000/);
    expect(read.get('This leg')).toMatch(/^20\.000/);
    expect(read.get('Grade')).toMatch(/^10\.00 %, 1 : 10/);
    expect(read.get('From the start')).toMatch(/^30\.000/);
    expect(read.get('Grade from the start')).toMatch(/^10\.00 %/);
  });

  test('where there is nothing below, that is said', async () => {
    found = ({ px, py }) => ({ e: px, n: py, z: NaN, source: 0 });
    handler.move!(event(30, 0));
    await settle();
    expect(pen.readings()[0]!.value).toBe('none here');
  });
});

test('a section is laid across each leg where that is wanted', async () => {
  pen.sectionFollows.set(true);
  await click([0, 0], [10, 0]);
  expect(section()).toEqual({ a: [10, 5], b: [10, -5] });
});

test('a guide goes to whoever asked for it, and is no line', async () => {
  const use = vi.fn();
  pen.drawGuide('Click along the break', use);
  await click([0, 0], [10, 0]);
  pen.finish();
  await settle();
  expect(use).toHaveBeenCalledWith([[0, 0], [10, 0]]); // prettier-ignore
  expect(put).not.toHaveBeenCalled();
  expect(pen.guideTitle()).toBeUndefined();
});
