import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import {
  buildSurface,
  drawContours,
  drawProfile,
  findGround,
  joinClouds,
  makeGrid,
  measureVolume,
} from '../operations/index.js';
import { parameterFields, referencesOf, withReferences } from './index.js';

const named = (references: ReturnType<typeof referencesOf>): string[] =>
  references.map(({ refersTo, id }) => `${refersTo} ${id}`);

describe('what an operation hangs on, read off its parameters', () => {
  test('clouds in a list, each once, in their order', () => {
    expect(named(referencesOf(findGround, { clouds: [3, 1, 3] }))).toEqual(['cloud 3', 'cloud 1']);
    expect(named(referencesOf(joinClouds, { clouds: [1, 2] }))).toEqual(['cloud 1', 'cloud 2']);
  });

  test('a surface hangs on its clouds and on its lines', () => {
    expect(named(referencesOf(buildSurface, { clouds: [1], lines: [7, 8] }))).toEqual([
      'cloud 1',
      'lines 7',
      'lines 8',
    ]);
  });

  test('contours hang on the surface or on the grid, never on what was chosen before', () => {
    const both = { surfaceId: 4, gridId: 5 };
    expect(named(referencesOf(drawContours, { ...both, on: 'surface' }))).toEqual(['surface 4']);
    expect(named(referencesOf(drawContours, { ...both, on: 'grid' }))).toEqual(['grid 5']);
  });

  test('a volume against a level hangs on one surface, against another on both', () => {
    const given = { surfaceId: 1, otherId: 2 };
    expect(named(referencesOf(measureVolume, { ...given, against: 'level' }))).not.toContain('surface 2');
    expect(named(referencesOf(measureVolume, { ...given, against: 'surface' }))).toEqual(['surface 1', 'surface 2']);
  });

  test('a grid hangs on what its cells come from', () => {
    const given = { clouds: [9], surfaceId: 1, gridId: 3, otherGridId: 4 };
    expect(named(referencesOf(makeGrid, { ...given, method: 'tin' }))).toContain('surface 1');
    expect(named(referencesOf(makeGrid, { ...given, method: 'tin' }))).not.toContain('cloud 9');
    expect(named(referencesOf(makeGrid, { ...given, method: 'lowest' }))).toContain('cloud 9');
    expect(named(referencesOf(makeGrid, { ...given, method: 'grid-difference' }))).toEqual(['grid 3', 'grid 4']);
  });

  test('others in their place are put where the first were, and nothing else changes', () => {
    const given = { surfaceIds: [1, 2], clouds: [1], line: [1, 2, 3, 4], within: 1 };
    const put = withReferences(drawProfile, given, (refersTo, id) => (refersTo === 'surface' ? id + 10 : id));
    expect(put).toEqual({ ...given, surfaceIds: [11, 12] });
    expect(given.surfaceIds).toEqual([1, 2]);
  });
});

describe('fields of a form', () => {
  test('say what the form must know: type, unit, choices, what may be left out', () => {
    const fields = new Map(parameterFields(findGround, 'metre').map((field) => [field.name, field]));
    expect(fields.get('clouds')).toMatchObject({ type: 'array', refersTo: 'cloud' });
    expect(fields.get('cell')).toMatchObject({ type: 'number', quantity: 'length' });
    expect(fields.get('refine')).toMatchObject({ type: 'boolean' });
    const on = parameterFields(drawContours, 'metre').find(({ name }) => name === 'on')!;
    expect(on.choices!.map(({ value }) => value)).toEqual(['surface', 'grid']);
  });

  test('feet have rounder figures than metres times 3.28', () => {
    const cell = (unit: 'metre' | 'us-survey-foot') =>
      parameterFields(findGround, unit).find(({ name }) => name === 'cell')!.default as number;
    expect(String(cell('us-survey-foot')).replace('.', '').length).toBeLessThanOrEqual(2);
    expect(cell('us-survey-foot') / cell('metre')).toBeCloseTo(3.28, 0);
  });

  test('limits are told in the unit of the job', () => {
    const problem = (unit: 'metre' | 'us-survey-foot'): string =>
      z.prettifyError(findGround.parameters(unit).safeParse({ clouds: [1], cell: 0 }).error!);
    expect(problem('metre')).toMatch(/cannot be under [\d.]+ m\./);
    expect(problem('us-survey-foot')).toMatch(/cannot be under [\d.]+ ftUS\./);
  });
});

describe('figures as they are typed (ISO 80000-1, 7.3: gaps part thousands; comma or point is the decimal sign)', () => {
  const read = (cell: unknown) => findGround.parameters('metre').safeParse({ clouds: [1], cell });
  test.each([
    ['0.5', 0.5],
    ['0,5', 0.5],
    ['50 cm', 0.5],
    ['2', 2],
    [2, 2],
  ])('%s is %d', (typed, value) => expect(read(typed).data!.cell).toBeCloseTo(value, 12));

  test.each(['', 'a bit', '1,234', '5 apples', '--3', null, true, {}])('%o is asked about', (typed) =>
    expect(read(typed).success).toBe(false),
  );

  test('whole numbers stay whole', () => {
    const index = (indexEvery: unknown) =>
      drawContours.parameters('metre').safeParse({ on: 'surface', surfaceId: 1, indexEvery }).success;
    expect([index(5), index('5'), index(4.5), index('four')]).toEqual([true, true, false, false]);
  });
});
