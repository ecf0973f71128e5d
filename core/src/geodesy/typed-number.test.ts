import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseLength, readLength, readTypedNumber, typedNumberFault } from './index.js';

const valueOf = (text: string): number | undefined => {
  const read = readTypedNumber(text);
  return 'value' in read ? read.value : undefined;
};

describe('a figure as typed', () => {
  test.each([
    ['12', 12],
    ['0.25', 0.25],
    ['.5', 0.5],
    ['5.', 5],
    ['-3.2', -3.2],
    ['−3.2', -3.2],
    ['+7', 7],
    ['1e3', 1000],
    ['  42  ', 42],
  ])('%s is %d', (text, value) => expect(valueOf(text)).toBe(value));

  test.each([
    ['1 234.50', 1234.5],
    ['1,234.50', 1234.5],
    ['1.234,50', 1234.5],
    ["1'234.5", 1234.5],
    ['5\u2009512\u2009000.25', 5_512_000.25],
    ['5 512 000,25', 5_512_000.25],
    ['2,891,746', 2_891_746],
    ['6.150.000', 6_150_000],
    ['1 234', 1234],
  ])('thousands may be parted: %s is %d', (text, value) => expect(valueOf(text)).toBe(value));

  test.each([
    ['1,5', 1.5],
    ['0,125', 0.125],
    ['1234,567', 1234.567],
    ['12,34', 12.34],
    ['1,2345', 1.2345],
  ])('a comma that can be nothing else is a decimal sign: %s is %d', (text, value) =>
    expect(valueOf(text)).toBe(value),
  );

  test.each([
    ['1,234', 1234, 1.234],
    ['-12,500', -12_500, -12.5],
  ])('%s could be %d or %d, and is not guessed', (text, thousands, decimal) => {
    expect(readTypedNumber(text)).toEqual({ couldBe: [thousands, decimal] });
    expect(typedNumberFault(text)).toContain(`can be ${thousands} or ${decimal}`);
  });

  test.each(['', 'abc', '1 23', '12 34.5', '1,23,456', '1.2.3', '1,234,5', '--4', '1,2.3,4', '4 m', 'e5', '.', ','])(
    '"%s" is no number',
    (text) => {
      expect(readTypedNumber(text)).toEqual({ fault: 'no-number' });
      expect(typedNumberFault(text)).toContain('is not a number');
    },
  );

  test('whatever way thousands are parted, the figure is read back', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -99_999_999, max: 99_999_999 }),
        fc.integer({ min: 0, max: 99 }),
        fc.constantFrom([' ', '.'], [',', '.'], ['.', ','], ["'", '.'], ['\u2009', ','], ['', '.']),
        (whole, cents, [group, decimal]) => {
          const digits = String(Math.abs(whole)).replace(/\B(?=(\d{3})+$)/g, group!);
          const text = `${whole < 0 ? '-' : ''}${digits}${decimal}${String(cents).padStart(2, '0')}`;
          expect(valueOf(text)).toBeCloseTo((whole < 0 ? -1 : 1) * (Math.abs(whole) + cents / 100), 6);
        },
      ),
      { seed: 1234, numRuns: 400 },
    );
  });
});

describe('a length as typed', () => {
  test('a figure with its thousands parted, and a unit', () => {
    expect(parseLength('1 234.5 m', 'metre')).toBe(1234.5);
    expect(parseLength('1,234.5 mm', 'metre')).toBeCloseTo(1.2345, 12);
    expect(parseLength('2,5 cm', 'metre')).toBeCloseTo(0.025, 12);
  });

  test('a figure that can be read in two ways is asked about, with its unit', () => {
    expect(parseLength('1,250 m', 'metre')).toBeUndefined();
    expect(readLength('1,250 m', 'metre')).toEqual({
      fault: '“1,250” can be 1250 or 1.25. Write it one of these ways.',
    });
  });

  test('a unit nobody knows is named', () => {
    expect(readLength('3 furlongs', 'metre')).toEqual({
      fault: '“furlongs” is not a unit of length. Use m, cm, mm, ft, in or yd.',
    });
    expect(readLength('wide', 'metre')).toEqual({
      fault: '“wide” is not a length. Type a number, with a unit if you like: 0.5, 8 in, 10 cm.',
    });
  });
});
