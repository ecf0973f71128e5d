import { describe, expect, test } from 'vitest';
import { pointsOf, statesOf } from '../shared/bits';
import { PreviewedGround } from './previewed-ground';
import type { CachedNode } from './point-cache';

const node = (id: number, classes: number[], selected?: number[]): CachedNode =>
  ({
    node: { id },
    classes: Uint8Array.from(classes),
    selected: selected && Uint8Array.from(selected),
    points: { count: classes.length, colour: new Uint32Array(classes.length) },
    colouredAt: 3,
    colourings: 5,
  }) as unknown as CachedNode;

describe('ground as it would be', () => {
  test('turns ground over where it is said, in that view alone', () => {
    const ground = new PreviewedGround();
    ground.set([{ view: 'after', nodes: [{ nodeId: 7, bits: Uint8Array.of(0b0000_0101) }] }]);
    const cached = node(7, [1, 5, 2, 2]);
    const shown = ground.of('after', cached, 'first');
    expect([...shown.classes]).toEqual([2, 5, 1, 2]);
    expect([...cached.classes]).toEqual([1, 5, 2, 2]);
    expect(shown.points.colour).not.toBe(cached.points.colour);
    expect(ground.of('section', cached, 'first')).toBe(cached);
    expect(ground.of('after', node(8, [1]), 'first').classes[0]).toBe(1);
  });

  test('is made once, and again when what it was made of has changed', () => {
    const ground = new PreviewedGround();
    ground.set([{ view: 'after', nodes: [{ nodeId: 7, bits: Uint8Array.of(1) }] }]);
    const cached = node(7, [1, 1]);
    const first = ground.of('after', cached, 'first');
    expect(ground.of('after', cached, 'first')).toBe(first);
    cached.classes[1] = 6;
    const second = ground.of('after', cached, 'second');
    expect([...second.classes]).toEqual([2, 6]);
    expect(second.colourings).not.toBe(first.colourings);
    ground.set([]);
    expect(ground.of('after', cached, 'second')).toBe(cached);
  });

  test('what is selected shows its class there', () => {
    const ground = new PreviewedGround();
    ground.set([{ view: 'after', nodes: [] }]);
    const cached = node(7, [2, 2], [1, 0]);
    expect(ground.of('after', cached, 'first').selected).toBeUndefined();
  });
});

test('of two states those points are counted that only one of them changes', () => {
  const preview = {
    gained: 1,
    lost: 1,
    nodes: [{ nodeId: 4, bits: btoa('\x03'), kept: btoa('\x06') }],
  };
  expect(pointsOf(preview)).toEqual({ kind: 'points', nodes: [{ nodeId: 4, bits: Uint8Array.of(0b101) }] });
  expect(statesOf(preview)).toEqual({
    now: [{ nodeId: 4, bits: Uint8Array.of(3) }],
    kept: [{ nodeId: 4, bits: Uint8Array.of(6) }],
  });
});
