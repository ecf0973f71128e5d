import type { FactsOf } from '@pampero/contract';
import { formatCount, formatNumber } from '@pampero/core/wording';

/** What a comparison of strips says: whether they agree, by how much, and whether slopes tell of shifts in plan. */
export function wordsOfComparison(facts: FactsOf<'strip-differences'>, unit: string) {
  const { all } = facts.agreement;
  const of = (value: number): string => `${formatNumber(value, 3)} ${unit}`;
  const [north = 0, east = 0, south = 0, west = 0] = facts.facing.sides;
  const verdict = (value: number, limit: number): string => `${formatNumber(value, 3)}, limit ${of(limit)}`;
  return {
    isGood: all.rmsd <= facts.limits.between && facts.within <= facts.limits.within,
    text: `${all.rmsd <= facts.limits.between ? 'The strips agree' : 'The strips do not agree'}: RMSDz ${of(all.rmsd)} over ${formatCount(all.count)} smooth patches, the limit of the class is ${of(facts.limits.between)}.`,
    facing: facts.facing.isEnough
      ? ''
      : `Slopes that face different ways are few: ${formatCount(north)} patches fall north, ${formatCount(east)} east, ${formatCount(south)} south, ${formatCount(west)} west. A shift in plan can hardly be seen here.`,
    facts: [
      { label: 'RMSDz', value: verdict(all.rmsd, facts.limits.between) },
      { label: 'Largest, 95 %', value: verdict(all.percentile95, facts.limits.largest) },
      { label: 'Within a strip', value: verdict(facts.within, facts.limits.within) },
      { label: 'Median', value: of(all.median) },
      { label: 'Patches', value: `${formatCount(all.count)} of ${formatNumber(facts.patch, 1)} ${unit}` },
      { label: 'Roughness at most', value: of(facts.roughnessLimit) },
    ],
    control: facts.control.map((row) => ({
      strip: row.strip,
      count: formatCount(row.count),
      mean: `${row.mean > 0 ? '+' : ''}${formatNumber(row.mean, 3)}`,
      rmse: formatNumber(row.rmse, 3),
    })),
  };
}
