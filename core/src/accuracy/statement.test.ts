import { describe, expect, test } from 'vitest';
import { accuracyStatement, saysVegetated, type CheckedPoint } from './index.js';

const points = (errors: readonly number[], code = 'CHK'): CheckedPoint[] =>
  errors.map((error, i) => ({ number: `K${i}`, easting: i, northing: 0, elevation: 100, code, surface: 100 + error }));

describe('accuracy statement', () => {
  test('by hand: errors -0.04, 0.02, 0.06, 0.00, 0.01', () => {
    // Sum 0.05, mean 0.01; squares 0.0016 + 0.0004 + 0.0036 + 0 + 0.0001 = 0.0057, RMSE sqrt(0.00114) = 0.033764;
    // deviations from the mean squared 0.0025 + 0.0001 + 0.0025 + 0.0001 + 0 = 0.0052, / 4, root 0.036056; NVA 1.96 RMSEz.
    const { open, nva, rmseV, interval, intervalNmas, hasEnough, vva } = accuracyStatement(
      points([-0.04, 0.02, 0.06, 0, 0.01]),
      saysVegetated,
      0.02,
    );
    expect(open!.mean).toBeCloseTo(0.01, 12);
    expect(open!.median).toBeCloseTo(0.01, 12);
    expect(open!.rmse).toBeCloseTo(0.0337639, 6);
    expect(open!.standardDeviation).toBeCloseTo(0.0360555, 6);
    expect(open!.worst).toBeCloseTo(0.06, 12);
    expect(nva).toBeCloseTo(0.0661772, 6);
    expect(rmseV).toBeCloseTo(Math.sqrt(0.00114 + 0.0004), 9);
    expect(interval).toBeCloseTo(0.1012917, 6);
    expect(intervalNmas).toBeCloseTo(0.1110765, 6);
    expect([hasEnough, vva]).toEqual([false, undefined]);
  });

  test('the 95th percentile goes between ranks: of 0.01 to 0.20 it is 0.1905', () => {
    const errors = Array.from({ length: 20 }, (_, i) => (i + 1) / 100);
    // Rank 0.95 * 19 + 1 = 19.05: 0.19 + 0.05 * 0.01.
    expect(accuracyStatement(points(errors, 'VEG'), saysVegetated, 0).vva).toBeCloseTo(0.1905, 12);
  });

  test('what lies beside the surface or is excluded does not count; vegetated points count apart', () => {
    const [a, b, c, d] = points([0.1, 0.2, 0.3, 0.4]) as [CheckedPoint, CheckedPoint, CheckedPoint, CheckedPoint];
    const { open, vegetated } = accuracyStatement(
      [a, { ...b, surface: undefined }, { ...c, excluded: 'on a manhole' }, { ...d, code: 'Brush' }],
      saysVegetated,
      0,
    );
    expect([open!.count, vegetated!.count]).toEqual([1, 1]);
  });

  test('no points make no figures', () => {
    const { open, nva, interval } = accuracyStatement([], saysVegetated, 0);
    expect([open, nva, interval]).toEqual([undefined, undefined, undefined]);
  });
});
