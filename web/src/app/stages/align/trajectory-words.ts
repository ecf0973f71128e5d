import { formatSeconds, type FactsOf } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';

const CLOCKS = {
  week: 'seconds of the GPS week',
  adjusted: 'adjusted standard GPS time',
  standard: 'standard GPS time',
} as const;

interface Site {
  readonly unit: LengthUnit;
  /** Lowest elevation of the clouds; infinite where there are none. */
  readonly ground: number;
  /** The strips that were found. */
  readonly strips: readonly { readonly from?: number | undefined; readonly to?: number | undefined }[];
}

/** A trajectory's facts, a line each. */
export function wordsOfTrajectory(
  facts: FactsOf<'trajectory'>,
  { unit, ground, strips }: Site,
): { label: string; value: string }[] {
  const short = shortUnit(unit);
  const over = Number.isFinite(ground) ? `${formatNumber(facts.lowest - ground, 0)} ${short}` : '–';
  return [
    { label: 'Records', value: `${formatCount(facts.records)}, ${formatNumber(facts.rate, 0)} a second` },
    { label: 'Duration', value: formatSeconds(facts.end - facts.start) },
    { label: 'Clock', value: CLOCKS[facts.clock] },
    { label: 'Flown', value: `${formatNumber((facts.length * metresPer(unit)) / 1000, 1)} km` },
    { label: 'Speed, usual', value: `${formatNumber(facts.speed, 1)} ${short}/s` },
    {
      label: 'Height',
      value: `${formatNumber(facts.lowest, 0)} to ${formatNumber(facts.highest, 0)} ${short}, ${over} over the cloud`,
    },
    { label: 'Tilt at most', value: `${formatNumber(facts.largestTilt, 1)}°` },
    { label: 'Overlap in time', value: overlap(facts, strips) },
  ];
}

function overlap({ start, end }: Pick<FactsOf<'trajectory'>, 'start' | 'end'>, strips: Site['strips']): string {
  const timed = strips.filter(({ from }) => from !== undefined);
  if (timed.length === 0) return 'known once strips are found';
  const covered = timed.filter(({ from, to }) => from! >= start && to! <= end).length;
  return `${covered} of ${timed.length} strips covered`;
}
