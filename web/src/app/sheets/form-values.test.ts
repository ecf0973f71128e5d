import { buildSurface, findGround, joinClouds, parameterFields, type ParameterField } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { describe, expect, test } from 'vitest';
import { checkValues, formValues, givenValues, isAsked, type Option } from './form-values';

const field = (facts: Partial<ParameterField> & { readonly name: string }): ParameterField => ({
  label: facts.name,
  help: '',
  type: 'number',
  ...facts,
});
const clouds: readonly Option[] = [
  { value: 1, label: 'first flight' },
  { value: 4, label: 'second flight' },
];
const offer = (options: readonly Option[]) => () => options;

describe('what a form holds', () => {
  test('what was typed stands before the chosen settings, and these before the usual', () => {
    const fields = ['a', 'b', 'c'].map((name) => field({ name, default: 1 }));
    expect(formValues(fields, { a: 3 }, { a: 2, b: 2 }, offer([]))).toEqual({ a: 3, b: 2, c: 1 });
  });

  test('a field that was emptied stays empty', () => {
    expect(formValues([field({ name: 'a', default: 1 })], { a: '' }, {}, offer([]))).toEqual({ a: '' });
    expect(formValues([field({ name: 'a', default: 1 })], { a: undefined }, {}, offer([]))).toEqual({ a: undefined });
  });

  test('a cloud is the newest until another is chosen; one that has gone is forgotten', () => {
    const chosen = field({ name: 'cloudId', type: 'integer', refersTo: 'cloud' });
    expect(formValues([chosen], {}, {}, offer(clouds))).toEqual({ cloudId: 4 });
    expect(formValues([chosen], { cloudId: 1 }, {}, offer(clouds))).toEqual({ cloudId: 1 });
    expect(formValues([chosen], { cloudId: 3 }, {}, offer(clouds))).toEqual({ cloudId: 4 });
    expect(formValues([chosen], {}, {}, offer([]))).toEqual({ cloudId: undefined });
  });

  test('of a list of clouds those that are left stay chosen; where none is left the newest is', () => {
    const list = field({ name: 'clouds', type: 'array', refersTo: 'cloud' });
    expect(formValues([list], { clouds: [1, 3] }, {}, offer(clouds))).toEqual({ clouds: [1] });
    expect(formValues([list], { clouds: [2, 3] }, {}, offer(clouds))).toEqual({ clouds: [4] });
    expect(formValues([list], { clouds: [] }, {}, offer(clouds))).toEqual({ clouds: [] });
  });

  test('lists that may be empty begin with all there is; what may be left out begins without', () => {
    const lines = field({ name: 'lines', type: 'array', refersTo: 'lines', default: [] });
    const outline = field({ name: 'outlineId', type: 'integer', refersTo: 'lines', none: 'all of the surface' });
    expect(formValues([lines, outline], {}, {}, offer(clouds))).toEqual({ lines: [1, 4], outlineId: undefined });
  });
});

describe('what is asked', () => {
  test('only what applies', () => {
    const level = field({ name: 'level', appliesTo: { name: 'against', is: ['level', 'both'] } });
    expect(isAsked(level, { against: 'level' }, [])).toBe(true);
    expect(isAsked(level, { against: 'both' }, [])).toBe(true);
    expect(isAsked(level, { against: 'surface' }, [])).toBe(false);
  });

  test('nothing that has a single answer, unless it may be left out', () => {
    const one = clouds.slice(0, 1);
    const needed = field({ name: 'cloudId', refersTo: 'cloud' });
    expect([isAsked(needed, {}, []), isAsked(needed, {}, one), isAsked(needed, {}, clouds)]).toEqual([
      false,
      false,
      true,
    ]);
    const open = { ...needed, none: 'none' };
    expect([isAsked(open, {}, []), isAsked(open, {}, one)]).toEqual([false, true]);
  });
});

describe('what is sent', () => {
  test('empty fields are left out, text without its edges', () => {
    expect(givenValues({ a: '', b: '  ', c: undefined, d: ' 8 in ', e: 0, f: false })).toEqual({
      d: '8 in',
      e: 0,
      f: false,
    });
  });

  test('what is wrong stands beside its field, in words', () => {
    const given = { clouds: [1], cell: 'a bit', tolerance: '-5 cm' };
    const { faults, parsed } = checkValues(findGround, 'metre', given);
    expect(parsed).toBeUndefined();
    expect(faults['cell']).toContain('“a bit” is not a length');
    expect(faults['tolerance']).toMatch(/cannot be under/);
    expect(Object.keys(faults)).toHaveLength(2);
  });

  test('figures are read as they are written, and asked about where they can be read in two ways', () => {
    const read = (maximumEdge: string, unit: 'metre' | 'us-survey-foot' = 'metre') =>
      checkValues(buildSurface, unit, { clouds: [1], maximumEdge });
    expect(read('12,5').parsed).toMatchObject({ maximumEdge: 12.5 });
    expect(read('1,234').faults['maximumEdge']).toContain('can be 1234 or 1.234');
    // NIST SP 811: a US survey foot is 1200/3937 m.
    expect(read('10 m', 'us-survey-foot').parsed?.['maximumEdge']).toBeCloseTo((10 * 3937) / 1200, 9);
  });

  test('one cloud cannot be joined to itself', () => {
    expect(Object.keys(checkValues(joinClouds, 'metre', { clouds: [1], name: 'Whole site' }).faults)).toEqual([
      'clouds',
    ]);
    expect(checkValues(joinClouds, 'metre', { clouds: [1, 4], name: 'Whole site' }).faults).toEqual({});
  });

  test('the first form of every sheet can be sent as it is, in every unit', () => {
    for (const unit of Object.keys(lengthUnits) as LengthUnit[]) {
      const values = formValues(parameterFields(findGround, unit), {}, {}, offer(clouds));
      expect(checkValues(findGround, unit, givenValues(values)).faults).toEqual({});
    }
  });
});
