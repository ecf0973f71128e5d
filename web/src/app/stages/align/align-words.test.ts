import type { FactsOf } from '@pampero/contract';
import { relativeLimits } from '@pampero/core/strips';
import { describe, expect, test } from 'vitest';
import { wordsOfComparison } from './comparison-words';
import { wordsOfTrajectory } from './trajectory-words';

const all = { count: 12_345, median: -0.004, mean: 0.001, rmsd: 0.0412, percentile95: 0.101, largest: 0.2 };
// ASPRS Positional Accuracy Standards, Edition 1, table 7.2: of the class of 10 cm RMSEz 6, 8 and 16 cm.
const facts: FactsOf<'strip-differences'> = {
  cloudId: 1,
  agreement: { all, pairs: [], histogram: { halfWidth: 0.3, bins: [1] } },
  patch: 2,
  roughnessLimit: 0.03,
  slopeLimit: 20,
  within: 0.02,
  facing: { flat: 10, sides: [1200, 3, 0, 7], isEnough: true },
  accuracyClass: 0.1,
  limits: relativeLimits(0.1),
  control: [{ strip: '7', count: 1234, mean: 0.0123, rmse: 0.02, worst: 0.05 }],
  map: { east: 0, north: 0, cell: 1, columns: 1, rows: 1 },
};

describe('what a comparison of strips says', () => {
  test('the verdict, with the limit of the class it is held against', () => {
    const words = wordsOfComparison(facts, 'm');
    expect(words.isGood).toBe(true);
    expect(words.text).toBe(
      'The strips agree: RMSDz 0.041 m over 12\u2009345 smooth patches, the limit of the class is 0.080 m.',
    );
    expect(words.facts.slice(0, 3)).toEqual([
      { label: 'RMSDz', value: '0.041, limit 0.080 m' },
      { label: 'Largest, 95 %', value: '0.101, limit 0.160 m' },
      { label: 'Within a strip', value: '0.020, limit 0.060 m' },
    ]);
  });

  test('strips that differ by more, and strips that are rough in themselves, are not good', () => {
    const apart = wordsOfComparison(
      { ...facts, agreement: { ...facts.agreement, all: { ...all, rmsd: 0.081 } } },
      'ft',
    );
    expect([apart.isGood, apart.text.slice(0, 24)]).toEqual([false, 'The strips do not agree:']);
    expect(apart.text).toContain('RMSDz 0.081 ft');
    const rough = wordsOfComparison({ ...facts, within: 0.07 }, 'm');
    expect([rough.isGood, rough.text.slice(0, 17)]).toEqual([false, 'The strips agree:']);
  });

  test('a land whose slopes face one way tells nothing of plan, and it says so', () => {
    expect(wordsOfComparison(facts, 'm').facing).toBe('');
    const facing = { ...facts.facing, isEnough: false };
    expect(wordsOfComparison({ ...facts, facing }, 'm').facing).toMatch(
      /1\u2009200 patches fall north, 3 east, 0 south, 7 west/,
    );
  });

  test('each strip against control with the sign of its mean', () => {
    const low = { strip: '8', count: 3, mean: -0.0118, rmse: 0.012, worst: 0.02 };
    expect(wordsOfComparison({ ...facts, control: [...facts.control, low] }, 'm').control).toEqual([
      { strip: '7', count: '1\u2009234', mean: '+0.012', rmse: '0.020' },
      { strip: '8', count: '3', mean: '-0.012', rmse: '0.012' },
    ]);
  });
});

describe('what a trajectory says of itself', () => {
  const flown: FactsOf<'trajectory'> = {
    fileName: 'flight.txt',
    records: 120_000,
    start: 1000,
    end: 1600,
    clock: 'week',
    rate: 200,
    length: 18_000,
    speed: 30,
    gaps: [],
    jumps: [],
    largestTilt: 21.37,
    lowest: 480,
    highest: 512.4,
    hasAccuracies: false,
    remarks: [],
  };
  const site = { unit: 'metre', ground: 30, strips: [] } as const;
  const of = (label: string, where: Parameters<typeof wordsOfTrajectory>[1] = site): string =>
    wordsOfTrajectory(flown, where).find((fact) => fact.label === label)!.value;

  test('records, length and height, over the cloud too', () => {
    expect(of('Records')).toBe('120\u2009000, 200 a second');
    expect(of('Flown')).toBe('18.0 km');
    expect(of('Clock')).toBe('seconds of the GPS week');
    expect(of('Height')).toBe('480 to 512 m, 450 m over the cloud');
    expect(of('Tilt at most')).toBe('21.4°');
  });

  test('in feet the length flown stays in kilometres: 18 000 US survey feet are 5.5 km', () => {
    // 1 US survey foot is 1200/3937 m.
    const feet = { ...site, unit: 'us-survey-foot' } as const;
    expect(of('Flown', feet)).toBe('5.5 km');
    expect(of('Speed, usual', feet)).toMatch(/^30\.0 .*\/s$/);
  });

  test('without a cloud there is no height over one; without strips no overlap', () => {
    expect(of('Height', { ...site, ground: Infinity })).toMatch(/, – over the cloud$/);
    expect(of('Overlap in time')).toBe('known once strips are found');
    expect(of('Overlap in time', { ...site, strips: [{}] })).toBe('known once strips are found');
  });

  test('how many of the strips the trajectory covers from end to end', () => {
    const strips = [{ from: 1000, to: 1100 }, { from: 1500, to: 1600.5 }, { from: 1200, to: 1300 }, {}];
    expect(of('Overlap in time', { ...site, strips })).toBe('2 of 3 strips covered');
  });
});
