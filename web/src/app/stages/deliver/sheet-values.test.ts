import { findGround, parameterFields, type RunSheet } from '@pampero/contract';
import { describe, expect, test } from 'vitest';
import { freeKey, sourcesBefore, typedValue, valueText } from './sheet-values';

const fields = new Map(parameterFields(findGround, 'metre').map((field) => [field.name, field]));
const sheet = {
  steps: [
    {
      kind: 'work',
      key: 'import',
      operation: 'import-cloud',
      title: 'The flight',
      isOff: false,
      isProposed: false,
      parameters: {},
    },
    { kind: 'work', key: 'low', operation: 'find-low', isOff: true, isProposed: false, parameters: {} },
    { kind: 'gate', key: 'look', isOff: false, gate: { rule: 'look', question: 'All there?' } },
    { kind: 'work', key: 'ground', operation: 'find-ground', isOff: false, isProposed: true, parameters: {} },
  ],
  places: [{ key: 'clouds', label: 'Clouds', help: '', kind: 'clouds', isOptional: false }],
} as unknown as RunSheet;

describe('values of a step, as they stand in a field', () => {
  test.each([
    ['0.25 m', '0.25 m'],
    [{ spacings: 2 }, '2 spacings'],
    [{ spacings: 1 }, '1 spacing'],
    [[{ from: 'import' }], 'from The flight'],
    [[{ place: 'clouds' }], 'given: Clouds'],
    [{ every: 'cloud' }, 'every cloud'],
    [[2, 9], '2, 9'],
    [true, 'true'],
    [undefined, ''],
  ])('%o is told as %s', (value, text) => expect(valueText(value, sheet)).toBe(text));

  test.each([
    ['0.25 m', 'cell', '0.25 m'],
    ['2 spacings', 'cell', { spacings: 2 }],
    ['1,5 spacings', 'cell', { spacings: 1.5 }],
    ['', 'cell', undefined],
    ['12', 'steepestRise', 12],
    ['yes', 'refine', true],
    ['no', 'refine', false],
    ['cloth', 'method', 'cloth'],
  ])('%s typed for %s is kept as %o', (text, name, kept) => expect(typedValue(text, fields.get(name)!)).toEqual(kept));

  test('what cannot be read is kept as typed, for the answer to name it', () => {
    expect(typedValue('a lot', fields.get('steepestRise')!)).toBe('a lot');
    expect(typedValue('2, ground', { type: 'array', quantity: 'class-list' })).toBe('2, ground');
  });

  test('a step takes from those before it that are turned on', () => {
    const ground = sheet.steps[3] as Parameters<typeof sourcesBefore>[1];
    expect(sourcesBefore(sheet, ground).map(({ key }) => key)).toEqual(['import']);
  });

  test('keys are made of the words, and no two are alike', () => {
    expect(freeKey('Ground', sheet)).toBe('ground-2');
    expect(freeKey('Clouds', sheet)).toBe('clouds-2');
    expect(freeKey('12 °', sheet)).toBe('step');
  });
});
