/** A place in space: easting, northing, elevation, all in one unit. */
export type Place3 = readonly [number, number, number];

/** How two places lie to each other. */
export interface Between {
  readonly slopeDistance: number;
  readonly planDistance: number;
  /** From the first to the second, positive upwards. */
  readonly rise: number;
  /** Rise over plan distance; infinite straight up. */
  readonly grade: number;
  /** Plan distance for a rise of one, always positive; infinite on the level. */
  readonly ratio: number;
  /** Above the horizon. */
  readonly degrees: number;
  /** Clockwise from grid north, 0 to 360; undefined where both are at one place in plan. */
  readonly bearing: number | undefined;
}

export function between([ae, an, az]: Place3, [be, bn, bz]: Place3): Between {
  const [east, north, rise] = [be - ae, bn - an, bz - az];
  const planDistance = Math.hypot(east, north);
  return {
    slopeDistance: Math.hypot(planDistance, rise),
    planDistance,
    rise,
    grade: rise === 0 ? 0 : rise / planDistance,
    ratio: rise === 0 ? Infinity : planDistance / Math.abs(rise),
    degrees: (Math.atan2(rise, planDistance) * 180) / Math.PI,
    bearing: planDistance === 0 ? undefined : ((Math.atan2(east, north) * 180) / Math.PI + 360) % 360,
  };
}

/** Length of a line through places, along the slope and in plan. */
export function lineLength(places: readonly Place3[]): { readonly slope: number; readonly plan: number } {
  let [slope, plan] = [0, 0];
  for (let i = 1; i < places.length; i++) {
    const { slopeDistance, planDistance } = between(places[i - 1]!, places[i]!);
    slope += slopeDistance;
    plan += planDistance;
  }
  return { slope, plan };
}

/** Area in plan of the outline through places (the surveyor's formula, Gauss), never negative. */
export function planArea(places: readonly Place3[]): number {
  if (places.length < 3) return 0;
  // About the first corner: full coordinates would lose millimetres to rounding.
  const [oe, on] = places[0]!;
  let twice = 0;
  for (let i = 0; i < places.length; i++) {
    const [ae, an] = places[i]!;
    const [be, bn] = places[(i + 1) % places.length]!;
    twice += (ae - oe) * (bn - on) - (be - oe) * (an - on);
  }
  return Math.abs(twice) / 2;
}

/** The angle at the middle one of three places, degrees, in plan and in space. */
export function angleAt(a: Place3, corner: Place3, b: Place3): { readonly plan: number; readonly space: number } {
  const p = [0, 1, 2].map((axis) => a[axis]! - corner[axis]!);
  const q = [0, 1, 2].map((axis) => b[axis]! - corner[axis]!);
  const of = (axes: readonly number[]): number => {
    const dot = axes.reduce((sum, axis) => sum + p[axis]! * q[axis]!, 0);
    const size = (v: readonly number[]): number => Math.hypot(...axes.map((axis) => v[axis]!));
    return (Math.acos(Math.max(-1, Math.min(1, dot / (size(p) * size(q) || 1)))) * 180) / Math.PI;
  };
  return { plan: of([0, 1]), space: of([0, 1, 2]) };
}
