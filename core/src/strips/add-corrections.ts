import type { Correction } from './correction.js';

type Three = [number, number, number];
const add = (a: readonly number[], b: readonly number[]): Three => [a[0]! + b[0]!, a[1]! + b[1]!, a[2]! + b[2]!];

/** A correction and what was still found after it, as one. Angles are small: their order is of no account. */
export function addCorrections(one: Correction, two: Correction): Correction {
  return {
    leverArm: one.leverArm,
    boresight: add(one.boresight, two.boresight),
    leverArmChange: add(one.leverArmChange, two.leverArmChange),
    rangeOffset: one.rangeOffset + two.rangeOffset,
    rangeScale: one.rangeScale + two.rangeScale,
    angleScale: one.angleScale + two.angleScale,
    strips: one.strips.map(({ shift, tilt, drift }, k) => ({
      shift: add(shift, two.strips[k]!.shift),
      tilt: add(tilt, two.strips[k]!.tilt),
      drift: add(drift, two.strips[k]!.drift),
    })),
    spans: one.spans,
    spline: addSplines(one.spline, two.spline),
  };
}

function addSplines(one: Correction['spline'], two: Correction['spline']): Correction['spline'] {
  if (!one || !two) return one ?? two;
  const values = one.values.map((list, axis) => {
    const other = two.values[axis]!;
    return list.length === 0 ? other : list.map((value, k) => value + (other[k] ?? 0));
  });
  return { ...one, values: values as unknown as NonNullable<Correction['spline']>['values'] };
}
