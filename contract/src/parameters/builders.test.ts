import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import {
  any,
  choice,
  classList,
  clouds,
  count,
  elevation,
  figure,
  figureNeeded,
  figureOrNone,
  flag,
  one,
  oneOrNone,
  productName,
  some,
  words,
} from './builders.js';

const facts = { label: 'Share', help: 'A share.' };
const message = (schema: z.ZodType, given: unknown): string => schema.safeParse(given).error?.issues[0]?.message ?? '';

describe('a number', () => {
  const ranged = figure({ ...facts, default: 5, min: 0, max: 10 });

  test.each<[unknown, number]>([
    [undefined, 5],
    [7, 7],
    ['7.5', 7.5],
    ['7,5', 7.5],
    [' 7 ', 7],
    [0, 0],
    [10, 10],
  ])('%j is read as %d', (given, expected) => expect(ranged.parse(given)).toBe(expected));

  test.each<[unknown, string]>([
    [-1, 'Share cannot be under 0.'],
    [10.01, 'Share cannot be over 10.'],
    ['', 'Share: type a number.'],
    [null, 'Share: type a number.'],
    [true, 'Share: type a number.'],
    [NaN, 'Share: type a number.'],
  ])('%j: %s', (given, told) => expect(message(ranged, given)).toBe(told));

  test('what cannot be read is told with what it says and under the field’s own name', () => {
    expect(message(ranged, 'a few')).toMatch(/^Share: .*a few/);
    expect(message(ranged, '1,234')).toMatch(/^Share: /);
  });

  test('open to one side has no limit there', () => {
    const open = figure({ ...facts, default: 0, min: 0 });
    expect(open.parse(1e12)).toBe(1e12);
    expect(message(open, -1)).toBe('Share cannot be under 0.');
  });

  test('left out where it may be, asked for where it may not', () => {
    const [mayBe, must] = [figureOrNone({ ...facts, min: 1 }), figureNeeded({ ...facts, min: 1 })];
    expect([mayBe.parse(undefined), mayBe.parse('')]).toEqual([undefined, undefined]);
    expect([message(must, undefined), message(must, '')]).toEqual(['Share: type a number.', 'Share: type a number.']);
    for (const schema of [mayBe, must]) expect(message(schema, 0)).toBe('Share cannot be under 1.');
  });

  test('a count is whole', () => {
    const whole = count({ ...facts, default: 4, min: 1, max: 50 });
    expect([whole.parse('12'), whole.parse(undefined)]).toEqual([12, 4]);
    expect([message(whole, 4.5), message(whole, 0), message(whole, 51)]).toEqual([
      'Share: type a whole number.',
      'Share cannot be under 1.',
      'Share cannot be over 50.',
    ]);
  });

  test('an elevation has no limits: there is land below the sea', () => {
    const level = elevation(facts);
    expect([level.parse('-28,5'), level.parse(8849), level.parse('')]).toEqual([-28.5, 8849, undefined]);
    expect(message(level, {})).toBe('Share: type an elevation.');
  });
});

describe('what is chosen', () => {
  test('one of a few, with what is usual where nothing is said', () => {
    const how = choice(['a', 'b'], { ...facts, default: 'b' });
    expect([how.parse(undefined), how.parse('a'), how.safeParse('c').success]).toEqual(['b', 'a', false]);
    expect([flag({ ...facts, default: true }).parse(undefined), flag({ ...facts, default: true }).safeParse('yes').success]).toEqual([true, false]); // prettier-ignore
  });

  test('classes are those of LAS, one at least', () => {
    const list = classList(facts);
    expect(list.parse(undefined)).toEqual([2]);
    expect(message(list, [])).toBe('Choose at least one class.');
    expect([[255], [256], [-1], [2.5]].map((given) => list.safeParse(given).success)).toEqual([true, false, false, false]); // prettier-ignore
  });

  test('clouds and products are told by their numbers: one, one or none, some, any', () => {
    expect([1, 0, -1, 1.5, '1'].map((given) => one('cloud', facts).safeParse(given).success)).toEqual([true, false, false, false, false]); // prettier-ignore
    expect(oneOrNone('grid', { ...facts, none: 'none' }).parse(undefined)).toBeUndefined();
    expect(message(some('cloud', facts), [])).toBe('Choose at least one: share.');
    expect(message(some('cloud', facts), 3)).toBe('Share: give a list of their numbers, [1] or [1, 2].');
    expect(any('lines', facts).parse(undefined)).toEqual([]);
    expect(clouds('What is worked on.').safeParse(Array.from({ length: 201 }, () => 1)).success).toBe(false);
  });
});

describe('words', () => {
  test('a name is a line, or none at all', () => {
    const name = productName('Its name.');
    expect([name.parse(undefined), name.parse('North bank')]).toEqual([undefined, 'North bank']);
    expect(message(name, '')).toBe('Name cannot be empty.');
    for (const bad of ['two\nlines', 'bell\u0007', 'x'.repeat(121)]) expect(name.safeParse(bad).success).toBe(false);
  });

  test('as long as there is room for', () => {
    expect(words({ ...facts, default: '', max: 3 }).safeParse('four').success).toBe(false);
    expect(words({ ...facts, default: 'as usual' }).parse(undefined)).toBe('as usual');
  });
});
