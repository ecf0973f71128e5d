import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { nodeBitsSchema, patchRequestSchema, selectionSchema } from './selections.js';

const visible = { hiddenClasses: [], withWithheld: false };
const view = { matrix: Array.from({ length: 16 }, (_, k) => k), origin: [1, 2, 3], width: 800, height: 600 };
const step = (shape: object, more: object = {}): object => ({ how: 'add', shape, visible, ...more });
const accepts = (...steps: unknown[]): boolean => selectionSchema.safeParse(steps).success;

describe('a selection as it is sent', () => {
  test.each<[string, object]>([
    ['an outline drawn in a view', { kind: 'outline', view, corners: [[0, 0], [5, 0], [5, 5]] }],
    ['a stroke of the brush', { kind: 'stroke', view, path: [[0, 0]], radius: 12 }],
    ['a boundary on the land', { kind: 'boundary', corners: [[0, 0], [1, 0], [1, 1]], buffer: -2 }],
    ['a range of values, open to one side', { kind: 'range', attribute: 'intensity', from: 10 }],
    ['returns', { kind: 'returns', which: ['single', 'last'] }],
    ['classes', { kind: 'classes', classes: [0, 255] }],
    ['points one by one', { kind: 'points', nodes: [{ nodeId: 3, bits: 'BwE=' }] }],
    ['all there is', { kind: 'all' }],
  ])('%s', (_what, shape) => expect(accepts(step(shape))).toBe(true)); // prettier-ignore

  test.each<[string, object]>([
    ['a shape nobody knows', { kind: 'circle', radius: 1 }],
    ['a view without its sixteen numbers', { kind: 'outline', view: { ...view, matrix: [1, 2, 3] }, corners: [] }],
    ['a view of no width', { kind: 'outline', view: { ...view, width: 0 }, corners: [] }],
    ['a view larger than any screen', { kind: 'outline', view: { ...view, height: 20_001 }, corners: [] }],
    ['a corner with three numbers', { kind: 'boundary', corners: [[0, 0, 0]], buffer: 0 }],
    ['numbers that are none', { kind: 'boundary', corners: [[NaN, 0]], buffer: 0 }],
    ['a class beyond LAS', { kind: 'classes', classes: [256] }],
    ['an attribute nobody knows', { kind: 'range', attribute: 'mood' }],
    ['bits that are no base 64', { kind: 'points', nodes: [{ nodeId: 3, bits: '%%%' }] }],
    ['a node without a number', { kind: 'points', nodes: [{ nodeId: 0, bits: '' }] }],
    ['a word too many', { kind: 'all', really: true }],
  ])('%s is refused', (_what, shape) => expect(accepts(step(shape))).toBe(false)); // prettier-ignore

  test('a step says how it counts, and what was to be seen', () => {
    expect(accepts({ how: 'or', shape: { kind: 'all' }, visible })).toBe(false);
    expect(accepts({ how: 'add', shape: { kind: 'all' } })).toBe(false);
    expect(accepts(step({ kind: 'all' }, { seenOnly: true, thickness: -1 }))).toBe(false);
    expect(accepts(step({ kind: 'all' }, { seenOnly: true, thickness: 0.25 }))).toBe(true);
  });

  test('what was to be seen may itself be a selection, and that one’s too', () => {
    const within = (depth: number): object =>
      depth === 0
        ? visible
        : { ...visible, focus: [{ how: 'add', shape: { kind: 'all' }, visible: within(depth - 1) }] };
    expect(accepts({ how: 'add', shape: { kind: 'all' }, visible: within(4) })).toBe(true);
    expect(accepts({ how: 'add', shape: { kind: 'all' }, visible: { ...visible, focus: [{}] } })).toBe(false);
  });

  test('is bounded: 500 steps, 20 000 corners', () => {
    const all = step({ kind: 'all' });
    expect(accepts(...Array.from({ length: 500 }, () => all))).toBe(true);
    expect(accepts(...Array.from({ length: 501 }, () => all))).toBe(false);
    const outline = (count: number): object => step({ kind: 'boundary', buffer: 0, corners: Array.from({ length: count }, (_, k) => [k, 0]) }); // prettier-ignore
    expect([accepts(outline(20_000)), accepts(outline(20_001))]).toEqual([true, false]);
  });

  test('bits arrive lowest first, eight points a byte', () => {
    expect(nodeBitsSchema.parse({ nodeId: 1, bits: btoa(String.fromCharCode(0b101, 0b10000000)) }).bits).toEqual(
      Uint8Array.of(0b101, 0b10000000),
    );
  });

  test('can be described to a script', () => {
    expect(() => z.toJSONSchema(selectionSchema, { io: 'input', unrepresentable: 'any' })).not.toThrow();
  });
});

describe('a patch that grows from a point', () => {
  const least = { seed: [1, 2, 3], reach: 0.5, limit: 20, visible };
  test.each<[string, object, boolean]>([
    ['by reach alone', {}, true],
    ['by height step and colour too', { heightStep: 0.1, colourStep: 0.4 }, true],
    ['a reach of nothing', { reach: 0 }, false],
    ['a limit behind it', { limit: -1 }, false],
    ['a colour step beyond white and black', { colourStep: 2.1 }, false],
    ['without a point', { seed: [1, 2] }, false],
  ])('%s: %#', (_what, more, expected) =>
    expect(patchRequestSchema.safeParse({ ...least, ...more }).success).toBe(expected),
  );
});
