import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { ViewId } from '../drawing/view-id';
import { DrawTiming } from './draw-timing';

let frames: (() => void)[];
let drawn: [ViewId, boolean][];
let timing: DrawTiming;
const nextFrame = (): void => {
  const waiting = frames;
  frames = [];
  for (const frame of waiting) frame();
};

beforeEach(() => {
  vi.useFakeTimers();
  frames = [];
  drawn = [];
  vi.stubGlobal('requestAnimationFrame', (frame: () => void) => frames.push(frame));
  timing = new DrawTiming((view, isMoving) => drawn.push([view, isMoving]));
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('when views are drawn', () => {
  test('a view that changes ten times before the next frame is drawn once', () => {
    for (let k = 0; k < 10; k++) timing.changed(['plan']);
    expect(drawn).toEqual([]);
    nextFrame();
    expect(drawn).toEqual([['plan', false]]);
    nextFrame();
    expect(drawn).toHaveLength(1);
  });

  test('the last word counts: what moves and is then still is drawn in full', () => {
    timing.moving(['plan', 'model']);
    timing.changed(['plan']);
    nextFrame();
    expect(drawn).toEqual([
      ['plan', false],
      ['model', true],
    ]);
  });

  test('quick pictures while it moves, one in full when it rests', () => {
    for (let k = 0; k < 5; k++) {
      timing.moving(['model']);
      nextFrame();
      vi.advanceTimersByTime(30);
    }
    expect(drawn).toEqual(Array.from({ length: 5 }, () => ['model', true]));
    vi.advanceTimersByTime(200);
    nextFrame();
    expect(drawn.at(-1)).toEqual(['model', false]);
    expect(drawn).toHaveLength(6);
  });

  test('nothing is drawn for a viewer that is gone', () => {
    timing.moving(['plan']);
    timing.stop();
    nextFrame();
    vi.advanceTimersByTime(1000);
    nextFrame();
    expect(drawn).toEqual([]);
  });
});
