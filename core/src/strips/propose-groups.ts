import { checkCancelled } from '../task/index.js';
import { adjustStrips, type Adjustment, type AdjustmentSettings, type ControlObservation } from './adjustment.js';
import { balancedPairs } from './choose-pairs.js';
import type { Correction } from './correction.js';
import type { PatchPairs } from './patches.js';
import type { PoseFinder } from './trajectory.js';
import type { UnknownGroup } from './unknowns.js';

/** What most flights need: the angles between scanner and platform, and satellite heights. */
const USUAL: readonly UnknownGroup[] = ['boresight', 'stripHeight'];
/** What else a flight may need, the likelier first. A lever arm is measured, and plan and scale follow from control: those are for people to ask. */
const FURTHER: readonly UnknownGroup[] = ['stripDrift', 'timeHeight', 'stripTilt', 'rangeOffset', 'angleScale'];

/** Correspondences that a proposal is made from: more tell no more of which errors there are. */
const ENOUGH_PAIRS = 15_000;
/** Differences between strips become less by at least this share of them. */
const GAIN = 0.05;
/** What is not better by more than a share is as good. */
const AS_GOOD = 0.97;
/** ... and the values found are together so many standard deviations beyond what chance gives. */
const BEYOND_CHANCE = 5;

export interface ProposedGroups {
  readonly groups: readonly UnknownGroup[];
  /** Of each that is added to the usual ones: RMSDz without and with it. */
  readonly because: readonly { readonly group: UnknownGroup; readonly without: number; readonly with: number }[];
}

/**
 * Which errors a flight has, told by the flight: beginning with the usual ones, the group is added that makes the differences least, as long as it
 * takes a twentieth off them and what it finds stands clear of chance (sum of squares of values over their standard deviations against that of a
 * chi-squared distribution), and is told apart from what is solved for already. A flight that is right is given nothing more.
 */
export function proposeGroups(
  pairs: PatchPairs,
  control: readonly ControlObservation[],
  base: Pick<Correction, 'spans' | 'leverArm'>,
  finder: PoseFinder | undefined,
  settings: Omit<AdjustmentSettings, 'groups'>,
  signal?: { readonly aborted: boolean },
): ProposedGroups {
  const few = balancedPairs(pairs, ENOUGH_PAIRS);
  const groups: UnknownGroup[] = finder ? [...USUAL] : ['stripHeight'];
  const because: { group: UnknownGroup; without: number; with: number }[] = [];
  const solve = (with_: readonly UnknownGroup[]): Adjustment =>
    adjustStrips(few, control, base, finder, { ...settings, groups: with_ }, signal);
  const hasTimes = base.spans.some(({ from, to }) => to > from);
  const further = finder ? FURTHER : hasTimes ? (['stripDrift'] as const) : [];
  let now = solve(groups);
  for (;;) {
    const left = further.filter((group) => !groups.includes(group));
    let best: { group: UnknownGroup; adjusted: Adjustment } | undefined;
    for (const group of left) {
      checkCancelled(signal);
      const adjusted = trySolving(() => solve([...groups, group]));
      if (!adjusted || !standsClear(adjusted, group, groups)) continue;
      if (adjusted.after.rmsd > (1 - GAIN) * now.after.rmsd) continue;
      // Of two that do about as well, the likelier.
      if (!best || adjusted.after.rmsd < AS_GOOD * best.adjusted.after.rmsd) best = { group, adjusted };
    }
    if (!best) return { groups, because };
    because.push({ group: best.group, without: now.after.rmsd, with: best.adjusted.after.rmsd });
    groups.push(best.group);
    now = best.adjusted;
  }
}

/** A correction in time may need more unknowns than can be solved: then it is not proposed. */
function trySolving(solve: () => Adjustment): Adjustment | undefined {
  try {
    return solve();
  } catch (error) {
    if ((error as { code?: string }).code === 'too-many-unknowns') return undefined;
    throw error;
  }
}

function standsClear(
  { unknowns, correlated }: Adjustment,
  group: UnknownGroup,
  others: readonly UnknownGroup[],
): boolean {
  const isMixed = correlated.some(({ one, two }) => {
    const [a, b] = [unknowns[one]!.group, unknowns[two]!.group];
    return (a === group && others.includes(b)) || (b === group && others.includes(a));
  });
  // Of a drift some strips may hang on a neighbour; what is common to a whole group must be told apart.
  if (isMixed && !group.startsWith('strip') && !group.startsWith('time')) return false;
  const told = unknowns.filter((unknown) => unknown.group === group && !unknown.isHeld);
  if (told.length === 0) return false;
  const squares = told.reduce((sum, { value, standardDeviation }) => sum + (value / standardDeviation) ** 2, 0);
  return squares > told.length + BEYOND_CHANCE * Math.sqrt(2 * told.length);
}
