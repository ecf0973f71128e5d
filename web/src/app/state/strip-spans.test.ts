import { describe, expect, test } from 'vitest';
import { PLAIN } from '../drawing/colour-modes';
import { byFoundStrip } from '../drawing/colour-modes/found-strip';
import { abgr } from '../drawing/colours';
import { shiftToTrajectory, stripSpansOf } from './strip-spans';

const set = (id: number, by: 'time' | 'source', strips: readonly object[]) => ({ id, facts: { by, strips } }) as never;
const strip = (name: string, from?: number, to?: number, isLeftOut = false) => ({ name, from, to, isLeftOut });

describe('strips that were found by their times', () => {
  test('of the newest set that goes by times; merged ones share a colour, those left out are of none', () => {
    const spans = stripSpansOf([
      set(1, 'time', [strip('old', 0, 1)]),
      set(3, 'source', [strip('7', 0, 1)]),
      set(2, 'time', [strip('b', 20, 30), strip('a', 0, 10), strip('b', 40, 50), strip('c', 60, 70, true)]),
    ]);
    expect(spans.map(({ name, from, to }) => [name, from, to])).toEqual([
      ['a', 0, 10],
      ['b', 20, 30],
      ['b', 40, 50],
    ]);
    expect(spans[1]!.colour).toBe(spans[2]!.colour);
    expect(spans[0]!.colour).not.toBe(spans[1]!.colour);
    expect(stripSpansOf([])).toEqual([]);
  });

  test('points are painted by the span their time lies in, ends included; between spans they are grey', () => {
    const strips = stripSpansOf([set(1, 'time', [strip('a', 0, 10), strip('b', 20, 30)])]);
    const times = Float64Array.of(0, 10, 15, 20, 30.5, -1, 25, 5);
    const out = new Uint32Array(times.length);
    byFoundStrip.paint({ columns: new Map([['gpsTime', times.buffer]]) } as never, out, {
      strips,
      classColours: new Uint32Array(256),
    });
    const [a, b] = strips.map(({ colour }) => abgr(colour));
    expect([...out]).toEqual([a, a, PLAIN, b, PLAIN, PLAIN, b, a]);
    expect(byFoundStrip.kindsOf({ clouds: [], hasSurface: false, strips }).map(({ name }) => name)).toEqual([
      'strip a',
      'strip b',
    ]);
  });

  test('clocks are brought together, or nobody can tell', () => {
    const standard = { isStandardGpsTime: true } as never;
    expect(shiftToTrajectory(standard, 250_000_000, { clock: 'adjusted' })).toBe(0);
    expect(shiftToTrajectory(standard, 250_000_000, { clock: 'week' })).toBeUndefined();
    // LAS 1.4 R15: adjusted standard GPS time is standard GPS time less 1e9; a week has 604 800 s.
    expect(shiftToTrajectory(standard, 250_000_000, { clock: 'week', week: 2066 })).toBe(1e9 - 2066 * 604_800);
  });
});
