import type { AdjustStripsParameters, FactsOf } from '@pampero/contract';
import type { ControlObservation } from '@pampero/core/strips';
import type { ControlPlane } from '../../passes/strip-pairs.js';

/** Check points, and every n-th of the control points. */
export function keptOutOf(planes: readonly ControlPlane[], { keepOut }: AdjustStripsParameters): Set<string> {
  const control = [...new Set(planes.filter(({ role }) => role === 'control').map(({ number }) => number))];
  const out = new Set(planes.filter(({ role }) => role === 'check').map(({ number }) => number));
  if (keepOut > 0) control.forEach((number, k) => k % keepOut === keepOut - 1 && out.add(number));
  return out;
}

export function observationsOf(
  planes: readonly ControlPlane[],
  keptOut: ReadonlySet<string>,
  accuracy: number,
): ControlObservation[] {
  return planes
    .filter(({ number }) => !keptOut.has(number))
    .map((plane) => ({
      number: plane.number,
      strip: plane.strip,
      time: plane.time,
      x: plane.east,
      y: plane.north,
      z: plane.elevation,
      slopeEast: plane.slopeEast,
      slopeNorth: plane.slopeNorth,
      elevation: plane.surveyed,
      sigma: Math.hypot(plane.sigma, accuracy),
    }));
}

/** What control says of the strips before and after, plane by plane. */
export function residualsOf(
  before: readonly ControlPlane[],
  after: readonly ControlPlane[],
  keptOut: ReadonlySet<string>,
  isJudgeOnly: boolean,
  names: readonly string[],
): FactsOf<'adjustment'>['control'] {
  return before.flatMap((plane) => {
    const then = after.find(({ number, strip }) => number === plane.number && strip === plane.strip);
    if (!then) return [];
    return [
      {
        number: plane.number,
        strip: names[plane.strip]!,
        before: plane.elevation - plane.surveyed,
        after: then.elevation - then.surveyed,
        isKeptOut: isJudgeOnly || keptOut.has(plane.number),
      },
    ];
  });
}
