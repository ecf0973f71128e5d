import type { StripAgreement } from '@pampero/contract';

/** Differences between strips as rows of a table: all together, then each two that overlap. */
export function differenceRows({ all, pairs }: StripAgreement): string[][] {
  const row = (what: string, d: StripAgreement['all']): string[] => [
    what,
    String(d.count),
    d.median.toFixed(4),
    d.mean.toFixed(4),
    d.rmsd.toFixed(4),
    d.percentile95.toFixed(4),
    d.largest.toFixed(4),
  ];
  return [
    ['strips', 'patches', 'median', 'mean', 'RMSDz', '95 %', 'largest'],
    row('all', all),
    ...pairs.map((pair) => row(`${pair.two} less ${pair.one}`, pair)),
  ];
}
