import type { FeatureCode } from '@pampero/core/lines';
import { describe, expect, test } from 'vitest';
import { editClasses, editCodes, type JobClass } from './index.js';
import { listedTwice } from './twice.js';

test('the first value that is there a second time', () => {
  expect(listedTwice([])).toBeUndefined();
  expect(listedTwice(['a', 'b', 'c'])).toBeUndefined();
  expect(listedTwice(['a', 'b', 'b', 'a'])).toBe('b');
});

const faultsOf = (parsed: { error?: { issues: readonly { message: string }[] } | undefined }): string[] =>
  parsed.error?.issues.map(({ message }) => message) ?? [];

describe('lists of classes', () => {
  const ground: JobClass = { code: 2, name: 'Bare earth', colour: '#aa5500', key: 'g' };
  const heap: JobClass = { code: 64, name: 'Heap', colour: '#00aa55' };
  const check = (...classes: JobClass[]): string[] => faultsOf(editClasses.parameters().safeParse({ classes }));

  test('each class once, each key for one of them; both are named', () => {
    expect(check(ground, heap)).toEqual([]);
    expect(check(ground, { ...heap, key: 'h' })).toEqual([]);
    expect(check(ground, heap, { ...heap, name: 'Other heap' })).toEqual(['Class 64 is listed twice.']);
    expect(check(ground, { ...heap, key: 'g' })).toEqual([
      'The key “g” is given to two classes. Give one of them another.',
    ]);
  });

  test('upper and lower case are two keys; without keys nothing is twice', () => {
    expect(check(ground, { ...heap, key: 'G' })).toEqual([]);
    expect(check({ ...ground, key: undefined } as never, heap)).toEqual([]);
  });

  test.each(['gg', '?', ' ', 'ß'])('“%s” is no key', (key) => {
    expect(check({ ...ground, key })).toEqual(['A key is one letter from a to z or one digit.']);
  });

  test.each([-1, 256, 2.5])('%s is no code of a class', (code) => {
    expect(check({ ...ground, code })).toHaveLength(1);
  });
});

describe('code lists', () => {
  const fence: FeatureCode = { code: 'FENCE', meaning: '', role: 'plain', colour: '#444444', style: 'dashed', layer: 'F' }; // prettier-ignore
  const check = (...codes: FeatureCode[]): string[] => faultsOf(editCodes.parameters().safeParse({ codes }));

  test('each code once, named where it is not', () => {
    expect(check(fence, { ...fence, code: 'WALL' })).toEqual([]);
    expect(check(fence, { ...fence, code: 'WALL' }, fence)).toEqual(['The code FENCE is listed twice.']);
  });

  test('none at all is no list; a code and a layer have names, an opacity is between a tenth and full', () => {
    expect(check()).toEqual(['A code list has one code at least.']);
    expect(check({ ...fence, code: '' })).toEqual(['Give the code a name.']);
    expect(check({ ...fence, layer: '' })).toEqual(['Give the layer a name.']);
    for (const opacity of [0, 0.05, 1.5]) expect(check({ ...fence, opacity })).toEqual(['An opacity is 10 to 100 %.']);
    expect(check({ ...fence, opacity: 0.1 })).toEqual([]);
  });

  test('lines of text: no line breaks, no hidden signs', () => {
    for (const meaning of ['a\nb', 'a\0b', 'a\u202eb']) expect(check({ ...fence, meaning })).toHaveLength(1);
  });
});
