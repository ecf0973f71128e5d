/** Places to grow over, job units about any origin, with colours 0 to 1 where they are asked about. */
export interface PatchPlaces {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  readonly red?: Float32Array;
  readonly green?: Float32Array;
  readonly blue?: Float32Array;
}

export interface PatchRule {
  /** Neighbours this near belong together, job units. */
  readonly reach: number;
  /** ... where one is no higher or lower than this than the other. */
  readonly heightStep?: number;
  /** ... and where a point's colour is this near to that of the point touched, in red, green and blue. */
  readonly colourStep?: number;
}

/**
 * The connected patch of points alike, grown from one: every point within reach of one of the patch joins it, where height and
 * colour allow. Single linkage over a grid of cells of the reach (common practice, no source).
 * @param seed - index of the point touched
 * @returns of each point 1 where it belongs to the patch
 */
export function growPatch(places: PatchPlaces, seed: number, rule: PatchRule): Uint8Array {
  const { x, y, z, red, green, blue } = places;
  const { reach, heightStep = Infinity, colourStep } = rule;
  const count = x.length;
  const inPatch = new Uint8Array(count);
  if (count === 0) return inPatch;
  const cellOf = (value: number): number => Math.floor(value / reach) + 1_048_576;
  const keyOf = (cx: number, cy: number, cz: number): number => (cx * 2_097_152 + cy) * 1024 + (cz & 1023);
  // Points of a cell as a linked list; a point leaves it when it joins the patch.
  const first = new Map<number, number>();
  const next = new Int32Array(count).fill(-1);
  for (let i = 0; i < count; i++) {
    const key = keyOf(cellOf(x[i]!), cellOf(y[i]!), cellOf(z[i]!));
    next[i] = first.get(key) ?? -1;
    first.set(key, i);
  }
  const isLike = (i: number): boolean =>
    colourStep === undefined ||
    !red ||
    Math.hypot(red[i]! - red[seed]!, green![i]! - green![seed]!, blue![i]! - blue![seed]!) <= colourStep;
  const queue = new Int32Array(count);
  let [head, tail] = [0, 0];
  inPatch[seed] = 1;
  queue[tail++] = seed;
  const limit = reach * reach;
  while (head < tail) {
    const p = queue[head++]!;
    const [px, py, pz] = [x[p]!, y[p]!, z[p]!];
    const [cx, cy, cz] = [cellOf(px), cellOf(py), cellOf(pz)];
    for (let dx = -1; dx <= 1; dx++)
      for (let dy = -1; dy <= 1; dy++)
        for (let dz = -1; dz <= 1; dz++) {
          const key = keyOf(cx + dx, cy + dy, cz + dz);
          let before = -1;
          let i = first.get(key) ?? -1;
          while (i >= 0) {
            const after = next[i]!;
            const isNear = (x[i]! - px) ** 2 + (y[i]! - py) ** 2 + (z[i]! - pz) ** 2 <= limit;
            if (inPatch[i] === 1 || (isNear && Math.abs(z[i]! - pz) <= heightStep && isLike(i))) {
              if (inPatch[i] === 0) {
                inPatch[i] = 1;
                queue[tail++] = i;
              }
              if (before < 0) {
                if (after < 0) first.delete(key);
                else first.set(key, after);
              } else next[before] = after;
            } else before = i;
            i = after;
          }
        }
  }
  return inPatch;
}
