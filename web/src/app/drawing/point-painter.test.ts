import { describe, expect, test } from 'vitest';
import type { CachedNode } from './point-cache';
import { ProcessorPainter } from './point-painter';
import { pickPoint } from './frame';

const IDENTITY = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);
const node = (slot: number, x: number): CachedNode =>
  ({
    slot,
    points: {
      count: 1,
      x: Float32Array.of(x),
      y: Float32Array.of(0),
      z: Float32Array.of(0),
      colour: Uint32Array.of(0xff00ff00),
    },
  }) as unknown as CachedNode;

describe('pictures of the processor', () => {
  test('the last picture stays as it is while the next one is drawn, and nothing of it is left in the one after', () => {
    const painter = new ProcessorPainter();
    const draw = (slot: number, x: number) => {
      const picture = painter.begin('plan', 10, 10);
      picture.points(IDENTITY, node(slot, x), 2);
      return picture.finish();
    };
    const first = draw(1, -0.5);
    const next = painter.begin('plan', 10, 10);
    next.points(IDENTITY, node(2, 0.5), 2);
    expect(pickPoint(first, 2, 5, 1)).toEqual({ slot: 1, index: 0 });
    const second = next.finish();
    expect(second).not.toBe(first);
    const third = draw(3, 0.5);
    expect(third).toBe(first);
    expect(pickPoint(third, 2, 5, 1)).toBeUndefined();
    expect(pickPoint(third, 7, 5, 1)).toEqual({ slot: 3, index: 0 });
  });

  test('a picture given up halfway leaves the last one be', () => {
    const painter = new ProcessorPainter();
    const shown = painter.begin('model', 6, 6).finish();
    painter.begin('model', 6, 6).points(IDENTITY, node(1, 0), 2);
    painter.begin('model', 6, 6).points(IDENTITY, node(1, 0), 2);
    expect(shown.colour.every((c) => c === 0)).toBe(true);
  });

  test('another size, or a depth that was given away, gets a frame of its own', () => {
    const painter = new ProcessorPainter();
    const first = painter.begin('plan', 4, 4).finish();
    structuredClone(first.depth.buffer, { transfer: [first.depth.buffer as ArrayBuffer] });
    const second = painter.begin('plan', 4, 4).finish();
    const third = painter.begin('plan', 4, 4).finish();
    expect([second, third].includes(first)).toBe(false);
    expect(painter.begin('plan', 8, 4).finish().depth.length).toBe(32);
  });
});
