import '@angular/compiler';
import { describe, expect, test } from 'vitest';
import { gradeText } from './measure-store';

describe('grades as they are read on site', () => {
  // 1 : 40 is 2.5 % and 1.43 degrees; common practice, by arithmetic: atan(1/40).
  test('per cent, ratio and degrees say the same', () => {
    expect(gradeText(0.025, 40, 1.4320961841646465)).toBe('2.50\u2009%, 1 : 40.0, 1.43°');
  });
  test('level and plumb have words of their own', () => {
    expect(gradeText(0, Infinity, 0)).toBe('0.00\u2009%, level, 0.00°');
    expect(gradeText(Infinity, 0, 90)).toBe('straight up');
  });
});
