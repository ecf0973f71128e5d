/** A move in plan about a centre: turned and scaled there, then shifted. */
export interface Similarity {
  readonly east: number;
  readonly north: number;
  /** Radians, counter-clockwise. */
  readonly turn: number;
  readonly scale: number;
  readonly centre: readonly [number, number];
}

/** A place and how far something there lies off. */
export interface Offset {
  readonly e: number;
  readonly n: number;
  readonly east: number;
  readonly north: number;
  readonly weight: number;
}

/**
 * The similarity that comes nearest to some offsets, by least squares (Helmert's four parameters); with `isShiftAlone`, their mean.
 * @throws RangeError of no offsets
 */
export function fitSimilarity(offsets: readonly Offset[], isShiftAlone: boolean): Similarity {
  const total = offsets.reduce((sum, { weight }) => sum + weight, 0);
  if (!(total > 0)) throw new RangeError('nothing to fit');
  const mean = (of: (o: Offset) => number): number => offsets.reduce((sum, o) => sum + o.weight * of(o), 0) / total;
  const centre = [mean((o) => o.e), mean((o) => o.n)] as const;
  const [east, north] = [mean((o) => o.east), mean((o) => o.north)];
  if (isShiftAlone) return { east, north, turn: 0, scale: 1, centre };
  // Moved place = shift + a·(x, y) + b·(−y, x), about the centre.
  let [sa, sb, spread] = [0, 0, 0];
  for (const { e, n, east: de, north: dn, weight } of offsets) {
    const [x, y] = [e - centre[0], n - centre[1]];
    const [mx, my] = [x + de - east, y + dn - north];
    sa += weight * (x * mx + y * my);
    sb += weight * (x * my - y * mx);
    spread += weight * (x * x + y * y);
  }
  if (!(spread > 0)) return { east, north, turn: 0, scale: 1, centre };
  const [a, b] = [sa / spread, sb / spread];
  return { east, north, turn: Math.atan2(b, a), scale: Math.hypot(a, b), centre };
}

export function applySimilarity(s: Similarity, e: number, n: number): [number, number] {
  const [x, y] = [e - s.centre[0], n - s.centre[1]];
  const [cos, sin] = [s.scale * Math.cos(s.turn), s.scale * Math.sin(s.turn)];
  return [s.centre[0] + s.east + cos * x - sin * y, s.centre[1] + s.north + sin * x + cos * y];
}

/** What undoes a similarity at a place. */
export function undoSimilarity(s: Similarity, e: number, n: number): [number, number] {
  const [x, y] = [e - s.centre[0] - s.east, n - s.centre[1] - s.north];
  const [cos, sin] = [Math.cos(s.turn) / s.scale, Math.sin(s.turn) / s.scale];
  return [s.centre[0] + cos * x + sin * y, s.centre[1] - sin * x + cos * y];
}
