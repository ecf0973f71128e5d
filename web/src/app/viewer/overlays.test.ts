// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import type { ContourSet } from '@pampero/core/contours';
import { beforeEach, describe, expect, test } from 'vitest';
import { contourSegments } from '../drawing/contour-lines';
import { bitsFromText, pointsOf, statesOf } from '../shared/bits';
import { storesOver } from '../stores.fixture';
import { ContourLabels } from './contour-labels';
import { PlanMarks } from './plan-marks';
import { SceneLines } from './scene-lines';
import { SectionComparison } from './section-comparison';

/** Lines of places about an origin, each with its level and what it is. */
function contours(
  ...lines: { level: number; isIndex?: boolean; isObscured?: boolean; at: readonly (readonly [number, number])[] }[]
): ContourSet {
  const starts = [0];
  for (const { at } of lines) starts.push(starts.at(-1)! + at.length);
  return {
    origin: [1000, 2000],
    level: Float64Array.from(lines, ({ level }) => level),
    isIndex: Uint8Array.from(lines, ({ isIndex }) => Number(isIndex ?? false)),
    isClosed: new Uint8Array(lines.length),
    isDepression: new Uint8Array(lines.length),
    isObscured: Uint8Array.from(lines, ({ isObscured }) => Number(isObscured ?? false)),
    starts: Uint32Array.from(starts),
    easting: Float64Array.from(lines.flatMap(({ at }) => at.map(([e]) => e))),
    northing: Float64Array.from(lines.flatMap(({ at }) => at.map(([, n]) => n))),
  };
}

beforeEach(() => void storesOver(() => undefined, [ContourLabels, PlanMarks, SceneLines, SectionComparison]));

describe('contours as segments', () => {
  test('index lines and the others apart, about the scene’s origin', () => {
    const set = contours(
      {
        level: 31,
        at: [
          [0, 0],
          [1, 0],
          [1, 1],
        ],
      },
      {
        level: 32,
        isIndex: true,
        at: [
          [5, 5],
          [6, 5],
        ],
      },
    );
    const { index, between, marks } = contourSegments(set, [1000, 2000, 30], 1);
    expect([...between]).toEqual([0, 0, 1, 1, 0, 1, 1, 0, 1, 1, 1, 1]);
    expect([...index]).toEqual([5, 5, 2, 6, 5, 2]);
    expect(marks).toHaveLength(0);
  });

  test('a line with few points behind it is dashed: two and a half metres of four, also over its vertices and in feet', () => {
    const line = {
      level: 30,
      isObscured: true,
      at: [
        [0, 0],
        [3, 0],
        [16, 0],
      ] as const,
    };
    for (const metre of [1, 3.28084]) {
      const scaled = { ...line, at: line.at.map(([e, n]) => [e * metre, n] as const) };
      const { marks, between } = contourSegments(contours(scaled), [1000, 2000, 30], metre);
      expect(between).toHaveLength(0);
      let drawn = 0;
      for (let k = 0; k < marks.length; k += 6)
        drawn += Math.hypot(marks[k + 3]! - marks[k]!, marks[k + 4]! - marks[k + 1]!);
      expect(drawn / metre).toBeCloseTo(10, 3); // four dashes on sixteen metres
    }
  });
});

describe('labels of contours', () => {
  const long = (level: number): ContourSet =>
    contours({ level, isIndex: true, at: Array.from({ length: 60 }, (_, k) => [k * 4, 0] as const) });

  test('stand on index lines as the parameters ask, with the decimals of the interval', () => {
    const labels = TestBed.inject(ContourLabels);
    labels.show(3, long(32), { labelHeight: 2, labelSpacing: 80, interval: 0.5 });
    const on = labels.all().get(3)!;
    expect(on.length).toBeGreaterThanOrEqual(2);
    expect(on[0]).toMatchObject({ elevation: 32, text: '32.0', height: 2, northing: 2000 });
    for (const { degrees } of on) expect(Math.abs(degrees)).toBeLessThan(1); // read from below
    labels.show(3, long(32), { labelHeight: 2, labelSpacing: 80, interval: 0.5, labelReading: 'uphill' });
    expect(Math.abs(labels.all().get(3)![0]!.degrees)).toBeCloseTo(180, 0);
  });

  test('are none where none are wanted, and go with their set', () => {
    const labels = TestBed.inject(ContourLabels);
    labels.show(4, long(32), { labelHeight: 0, labelSpacing: 80, interval: 1 });
    expect(labels.all().has(4)).toBe(false);
    labels.show(5, long(33), { labelHeight: 2, labelSpacing: 80, interval: 1 });
    labels.drop(5);
    expect(labels.all().size).toBe(0);
  });
});

describe('marks over Plan', () => {
  test('come and go under their names, and are drawn together', () => {
    const marks = TestBed.inject(PlanMarks);
    const dot = (key: string): never => ({ key, kind: 'dot', easting: 1, northing: 2 }) as never;
    marks.set('none', []);
    marks.set('a', [dot('a1')]);
    marks.set('b', [dot('b1'), dot('b2')]);
    expect(marks.all().map(({ key }) => key)).toEqual(['a1', 'b1', 'b2']);
    marks.set('a', []);
    expect(marks.all().map(({ key }) => key)).toEqual(['b1', 'b2']);
  });

  test('lines over the land are told as they come and as they go', () => {
    const seen: unknown[] = [];
    const lines = TestBed.inject(SceneLines);
    lines.changes$.subscribe((change) => seen.push(change));
    const positions = new Float32Array(6);
    lines.set('x', positions, { colour: '#123456', opacity: 1, isDepthTested: false });
    lines.set('x', undefined);
    expect(seen).toEqual([
      { key: 'x', layer: { positions, colour: '#123456', opacity: 1, isDepthTested: false } },
      { key: 'x', layer: undefined },
    ]);
  });

  test('a comparison in the section is on until it is closed', () => {
    const comparison = TestBed.inject(SectionComparison);
    expect(comparison.isOn()).toBe(false);
    comparison.compared.set({ above: 'As it is', below: 'With these settings', views: [] });
    expect(comparison.isOn()).toBe(true);
    comparison.close();
    expect(comparison.isOn()).toBe(false);
  });
});

describe('bits of points', () => {
  const text = (...bytes: number[]): string => btoa(String.fromCharCode(...bytes));

  test('arrive as they were sent, beyond seven bits too', () => {
    expect([...bitsFromText(text(0, 127, 128, 255))]).toEqual([0, 127, 128, 255]);
  });

  test('of a preview against other settings only what one of them changes counts', () => {
    const preview = {
      nodes: [
        { nodeId: 4, bits: text(0b1100), kept: text(0b1010) },
        { nodeId: 5, bits: text(0b1) },
      ],
    } as never;
    expect(pointsOf(preview)).toEqual({
      kind: 'points',
      nodes: [
        { nodeId: 4, bits: Uint8Array.of(0b0110) },
        { nodeId: 5, bits: Uint8Array.of(1) },
      ],
    });
    expect(statesOf(preview)).toEqual({
      now: [
        { nodeId: 4, bits: Uint8Array.of(0b1100) },
        { nodeId: 5, bits: Uint8Array.of(1) },
      ],
      kept: [{ nodeId: 4, bits: Uint8Array.of(0b1010) }],
    });
  });
});
