import { describe, expect, test } from 'vitest';
import { mustBePositive, readTyped } from './typed-field';

describe('a field that is typed into', () => {
  test('lengths take a unit, plain figures do not', () => {
    expect(readTyped('10 cm', { name: 'depth', unit: 'metre' })).toEqual({ value: 0.1 });
    expect(readTyped('10 cm', { name: 'share' })).toEqual({
      fault: 'The share stays as it was. “10 cm” is not a number.',
    });
  });

  test('what Pampero writes itself is read again', () => {
    expect(readTyped('6\u2009150\u2009000.25', { name: 'face', unit: 'metre' })).toEqual({ value: 6_150_000.25 });
    expect(readTyped('−3.5', { name: 'level', unit: 'metre' })).toEqual({ value: -3.5 });
  });

  test('a field that goes back says why', () => {
    const fault = (text: string) =>
      (readTyped(text, { name: 'section depth', unit: 'metre', refuse: mustBePositive }) as { fault: string }).fault;
    expect(fault('a bit')).toMatch(/^The section depth stays as it was\. “a bit” is not a length\./);
    expect(fault('0')).toBe('The section depth stays as it was. It must be more than 0.');
    expect(fault('1,234')).toBe(
      'The section depth stays as it was. “1,234” can be 1234 or 1.234. Write it one of these ways.',
    );
    expect(fault('3 furlongs')).toContain('is not a unit of length');
    expect(fault('')).toContain('stays as it was');
  });
});
