import type { Cloud, ProductOf, Strip } from '@pampero/contract';
import { clockOf, clockShift } from '@pampero/core/strips';
import { stripColour } from '../drawing/colours';
import type { StripSpan } from '../drawing/strip-span';

/** Strips of the newest set that goes by times, in the order of their times; those of one name have one colour. */
export function stripSpansOf(sets: readonly ProductOf<'strips'>[]): readonly StripSpan[] {
  const newest = sets.filter(({ facts }) => facts.by === 'time').sort((a, b) => b.id - a.id)[0];
  return colouredSpans(newest?.facts.strips ?? []);
}

/** Strips with times, in their order, each name in a colour of its own. */
export function colouredSpans(
  strips: readonly Pick<Strip, 'name' | 'from' | 'to' | 'isLeftOut'>[],
): readonly StripSpan[] {
  const used = strips.filter(({ isLeftOut }) => !isLeftOut);
  const names = [...new Set(used.map(({ name }) => name))];
  return used
    .flatMap(({ name, from, to }) =>
      from === undefined || to === undefined ? [] : [{ name, from, to, colour: stripColour(names.indexOf(name) + 1) }],
    )
    .sort((a, b) => a.from - b.from);
}

/** Seconds to add to the times of a cloud to have those of a trajectory; undefined where nobody can tell. */
export function shiftToTrajectory(
  cloud: Pick<Cloud, 'isStandardGpsTime'>,
  time: number,
  { clock, week }: Pick<ProductOf<'trajectory'>['facts'], 'clock' | 'week'>,
): number | undefined {
  return clockShift(cloud.isStandardGpsTime ? 'adjusted' : clockOf(time), clock, week);
}
