import { facesEnough, facingShares, type Adjustment, type PatchPairs, type UnknownGroup } from '@pampero/core/strips';
import { formatCounted } from '@pampero/core/wording';
import { labelOf } from './adjustment-labels.js';

/** What is to be known before anything is applied. */
export function remarksOf(
  adjusted: Adjustment,
  pairs: PatchPairs,
  groups: readonly UnknownGroup[],
  short: string,
  after: number,
  before: number,
  names: readonly string[],
): string[] {
  const remarks: string[] = [];
  const held = adjusted.unknowns.filter(({ isHeld }) => isHeld);
  if (held.length > 0)
    remarks.push(
      `This flight does not tell ${held
        .slice(0, 6)
        .map((unknown) => labelOf(unknown, names).toLowerCase())
        .join(
          '; ',
        )}${held.length > 6 ? ` and ${held.length - 6} more` : ''}: left as ${held.length === 1 ? 'it was' : 'they were'}.`,
    );
  const facing = facingShares(pairs);
  if (!facesEnough(facing) && groups.some((group) => group === 'boresight' || group === 'stripPlan'))
    remarks.push(
      `Slopes that face different ways are few (${facing.sides.join(', ')} patches fall north, east, south, west): corrections in plan and heading are weak.`,
    );
  if (adjusted.correlated.length > 0)
    remarks.push(
      `${formatCounted(adjusted.correlated.length, 'pair')} of corrections can hardly be told apart; correct one of each.`,
    );
  if (after > 0.95 * before && before > 0)
    remarks.push(`The strips agreed to ${before.toFixed(3)} ${short} already: there is little to gain.`);
  return remarks;
}
