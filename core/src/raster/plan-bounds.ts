/** The box about some places. */
export interface PlanBounds {
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}

/** The box about the first `count` places; of none, from ∞ to −∞. */
export function planBounds(x: ArrayLike<number>, y: ArrayLike<number>, count = x.length): PlanBounds {
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    if (x[i]! < west) west = x[i]!;
    if (x[i]! > east) east = x[i]!;
    if (y[i]! < south) south = y[i]!;
    if (y[i]! > north) north = y[i]!;
  }
  return { west, south, east, north };
}

/** The box about those places that are named by their indices. */
export function planBoundsOf(chosen: ArrayLike<number>, x: ArrayLike<number>, y: ArrayLike<number>): PlanBounds {
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < chosen.length; k++) {
    const i = chosen[k]!;
    if (x[i]! < west) west = x[i]!;
    if (x[i]! > east) east = x[i]!;
    if (y[i]! < south) south = y[i]!;
    if (y[i]! > north) north = y[i]!;
  }
  return { west, south, east, north };
}

/** The land that two have in common; turned inside out where they have none. */
export function commonPlan(one: PlanBounds, other: PlanBounds): PlanBounds {
  return {
    west: Math.max(one.west, other.west),
    south: Math.max(one.south, other.south),
    east: Math.min(one.east, other.east),
    north: Math.min(one.north, other.north),
  };
}

/** Whether two pieces of land have more than an edge in common. */
export function plansOverlap(one: PlanBounds, other: PlanBounds): boolean {
  return one.west < other.east && one.east > other.west && one.south < other.north && one.north > other.south;
}
