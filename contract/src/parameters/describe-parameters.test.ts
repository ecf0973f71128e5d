import { describe, expect, test } from 'vitest';
import { operationById } from '../operations/index.js';
import { describeParameters, type Names } from './describe-parameters.js';

const names: Names = {
  of: (refersTo, id) =>
    new Map([
      ['cloud 1', 'strip'],
      ['surface 3', 'Bare field'],
    ]).get(`${refersTo} ${id}`),
  ofClass: (code) => `${code} ${{ 2: 'Ground', 9: 'Water' }[code] ?? 'User class'}`,
};
const described = (
  operation: string,
  parameters: Record<string, unknown>,
  unit: 'metre' | 'us-survey-foot' = 'metre',
) =>
  Object.fromEntries(
    describeParameters(operationById(operation)!, parameters, unit, names).map(({ label, value }) => [label, value]),
  );

describe('parameters as the field book shows them', () => {
  test('clouds and surfaces by name, choices by their labels, lengths with their unit', () => {
    const contours = described('draw-contours', { on: 'surface', surfaceId: 3, interval: 0.25, baseElevation: 0 });
    expect(Object.values(contours)).toContain('Bare field');
    expect(contours['Interval']).toBe('0.25\u2009m');
    expect(Object.values(described('draw-contours', { interval: 1 }, 'us-survey-foot'))).toContain('1\u2009ftUS');
  });

  test('a cloud that has gone is told as such, not left out', () => {
    expect(Object.values(described('find-ground', { clouds: [1, 2] }))).toContain('strip, no. 2, since replaced');
  });

  test('classes by code and name, switches in words, empty lists as none', () => {
    const values = Object.values(described('thin-cloud', { classes: [2, 9], differenceMap: false }));
    expect(values).toContain('2 Ground, 9 Water');
    expect(values).toContain('no');
    expect(Object.values(described('build-surface', { lines: [] }))).toContain('none');
  });

  test('no more decimals than anybody measures', () => {
    expect(described('draw-contours', { interval: 0.30000000000000004 })['Interval']).toBe('0.3\u2009m');
    expect(described('draw-contours', { interval: 12.345678901 })['Interval']).toBe('12.3457\u2009m');
    expect(described('draw-profile', { line: [5_512_229.91234567, 6_150_346.3] })['Line']).toBe(
      '5\u2009512\u2009229.912, 6\u2009150\u2009346.300',
    );
  });

  test('imports are described too', () => {
    expect(Object.values(described('import-control', { order: 'PNEZD', role: 'check' }))).toContain('check points');
  });
});
