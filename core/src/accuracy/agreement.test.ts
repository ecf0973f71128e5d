import { expect, test } from 'vitest';
import { agreementCounts, agreementOf } from './agreement.js';

test('kappa of 20 yes-yes, 5 and 10 disagreements, 15 no-no is 0.4', () => {
  // The standard worked example of Cohen's kappa (proposals read by two readers; from memory): observed 0.7, by chance 0.5.
  const { kappa, total, typeOne, typeTwo } = agreementOf({ both: 20, truthOnly: 5, resultOnly: 10, neither: 15 });
  expect(kappa).toBeCloseTo(0.4, 12);
  expect(total).toBeCloseTo(15 / 50, 12);
  expect(typeOne).toBeCloseTo(5 / 25, 12);
  expect(typeTwo).toBeCloseTo(10 / 25, 12);
});

test('counts come from two class columns', () => {
  expect(agreementCounts(Uint8Array.of(2, 2, 1, 1, 6), Uint8Array.of(2, 1, 2, 1, 1), 2)).toEqual({
    both: 1,
    truthOnly: 1,
    resultOnly: 1,
    neither: 2,
  });
});
