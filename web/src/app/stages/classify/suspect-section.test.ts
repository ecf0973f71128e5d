import { describe, expect, test } from 'vitest';
import { heightsOf, sectionOf } from './suspect-section';

const suspect = (kind: Parameters<typeof sectionOf>[0]['kind'], size: number, width: number) => ({
  kind,
  size,
  width,
  elevation: 30,
});

describe('the section through a suspect area', () => {
  test('a spike of 0.3 m takes its place: the section is short, and shows so high a stretch', () => {
    expect(sectionOf(suspect('spike', 0.3, 1), 1)).toEqual({ length: 8, depth: 1, height: 0.3 });
  });
  test('a wide one is seen with land on both sides, within reason', () => {
    expect(sectionOf(suspect('roof', 3, 20), 1)).toEqual({ length: 60, depth: 6, height: 3 });
    expect(sectionOf(suspect('hole', 300, 300), 1).length).toBe(140);
  });
  test('of a hole or of thin support the size is no height', () => {
    expect(sectionOf(suspect('hole', 12, 12), 1).height).toBe(3);
    expect(sectionOf(suspect('thin', 0.01, 5), 1).height).toBe(1.25);
  });
  test('in feet it is as large on the land', () => {
    const foot = 0.3048;
    const inFeet = sectionOf(suspect('spike', 0.3 / foot, 1 / foot), 1 / foot);
    expect(inFeet.length * foot).toBeCloseTo(8, 9);
    expect(inFeet.height * foot).toBeCloseTo(0.3, 9);
  });
  test('the points that are wrong: above a spike’s middle, below a pit’s, the upper side of a step, else all', () => {
    expect(heightsOf(suspect('spike', 0.4, 1))).toEqual({ from: 29.8 });
    expect(heightsOf(suspect('pit', 0.4, 1))).toEqual({ to: 30.2 });
    expect(heightsOf(suspect('step', 1, 1))).toEqual({ from: 30 });
    expect(heightsOf(suspect('roof', 3, 9))).toEqual({});
  });
});
