import { describe, expect, test } from 'vitest';
import { formatBytes, formatCount, formatNumber } from '@pampero/core/wording';
import { formatFigure, formatSeconds, formatShare } from '@pampero/contract';

describe('numbers as the whole product writes them', () => {
  test('thousands are set apart by a thin gap, decimals are not', () => {
    expect(formatCount(1512904)).toBe('1\u2009512\u2009904');
    expect(formatNumber(5512204.318, 3)).toBe('5\u2009512\u2009204.318');
    expect(formatNumber(-1234.5, 1)).toBe('-1\u2009234.5');
  });

  test('a share that is there but tiny is not shown as nothing', () => {
    expect(formatShare(0.0004)).toBe('<0.1\u2009%');
    expect(formatShare(0)).toBe('0.0\u2009%');
    expect(formatShare(0.622)).toBe('62.2\u2009%');
  });

  test('seconds grow into minutes, bytes into gigabytes', () => {
    expect(formatSeconds(0.93)).toBe('0.9\u2009s');
    expect(formatSeconds(134)).toBe('2\u2009min 14\u2009s');
    expect(formatBytes(44_147_601)).toBe('44.1\u2009MB');
  });

  test('a length carries the unit of the job', () => {
    expect(formatFigure({ label: 'Highest', value: 34.4312, quantity: 'length' }, 'us-survey-foot')).toBe(
      '34.431\u2009ftUS',
    );
  });
});
