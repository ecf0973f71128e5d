/** An axis-aligned box. Empty is +∞…−∞, so that growing it needs no first case. */
export interface Bounds {
  readonly min: [number, number, number];
  readonly max: [number, number, number];
}

export function emptyBounds(): Bounds {
  return { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
}

export function isEmptyBounds(bounds: Bounds): boolean {
  return bounds.min[0] > bounds.max[0];
}

/** Grows `bounds` in place until it holds `other`. */
export function growBounds(bounds: Bounds, other: Bounds): void {
  for (let axis = 0; axis < 3; axis++) {
    bounds.min[axis] = Math.min(bounds.min[axis]!, other.min[axis]!);
    bounds.max[axis] = Math.max(bounds.max[axis]!, other.max[axis]!);
  }
}

/** The box around several; empty where there is none. */
export function boundsAround(all: readonly Bounds[]): Bounds {
  const bounds = emptyBounds();
  for (const each of all) growBounds(bounds, each);
  return bounds;
}

/** The box of scaled integers; integers, not coordinates. */
export function integerBounds(x: Int32Array, y: Int32Array, z: Int32Array): Bounds {
  const bounds = emptyBounds();
  for (const [axis, values] of [x, y, z].entries()) {
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < values.length; i++) {
      const value = values[i]!;
      if (value < low) low = value;
      if (value > high) high = value;
    }
    bounds.min[axis] = low;
    bounds.max[axis] = high;
  }
  return bounds;
}
