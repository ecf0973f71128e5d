import { PamperoError } from '../task/index.js';

/** A place in plan. */
export type Place = readonly [easting: number, northing: number];

export type BoxRelation = 'outside' | 'inside' | 'crossing';

const MOST_BANDS = 512;

/**
 * A drawn outline, made ready to be asked about many points: its sides are kept by bands of northing, so that a point meets
 * the few that can matter to it. A point on a side counts as inside where the even-odd rule with half-open sides says so, so
 * that of two outlines with a common side each point is in just one.
 */
export class Outline {
  readonly min: Place;
  readonly max: Place;
  private readonly bandHeight: number;
  private readonly bandCount: number;
  /** Easting and northing of each corner, the first once more at the end. */
  private readonly flat: Float64Array;
  /** Of each band its sides: index of the first corner. */
  private readonly bands: Int32Array[];

  /** @throws PamperoError `outline-wrong` for fewer than three corners, no area, or sides that cross */
  constructor(readonly corners: readonly Place[]) {
    checkOutline(corners);
    this.flat = Float64Array.from([...corners, corners[0]!].flat());
    const eastings = corners.map(([e]) => e);
    const northings = corners.map(([, n]) => n);
    this.min = [Math.min(...eastings), Math.min(...northings)];
    this.max = [Math.max(...eastings), Math.max(...northings)];
    this.bandCount = Math.min(MOST_BANDS, corners.length * 2);
    this.bandHeight = (this.max[1] - this.min[1]) / this.bandCount || 1;
    const lists = Array.from({ length: this.bandCount }, () => [] as number[]);
    corners.forEach(([, n], i) => {
      const next = corners[(i + 1) % corners.length]![1];
      for (let band = this.bandOf(Math.min(n, next)); band <= this.bandOf(Math.max(n, next)); band++)
        lists[band]!.push(i);
    });
    this.bands = lists.map((list) => Int32Array.from(list));
  }

  contains(easting: number, northing: number): boolean {
    const { min, max, flat } = this;
    if (easting < min[0] || easting > max[0] || northing < min[1] || northing > max[1]) return false;
    let isInside = false;
    const band = this.bands[this.bandOf(northing)]!;
    for (let k = 0; k < band.length; k++) {
      const at = 2 * band[k]!;
      const an = flat[at + 1]!;
      const bn = flat[at + 3]!;
      if (an > northing === bn > northing) continue;
      const ae = flat[at]!;
      if (easting < ae + ((northing - an) / (bn - an)) * (flat[at + 2]! - ae)) isInside = !isInside;
    }
    return isInside;
  }

  /** How a box lies to the outline: points of one that is wholly inside or outside need not be asked about. */
  relationOf(west: number, south: number, east: number, north: number): BoxRelation {
    const { min, max, corners } = this;
    if (east < min[0] || west > max[0] || north < min[1] || south > max[1]) return 'outside';
    for (let band = this.bandOf(south); band <= this.bandOf(north); band++)
      for (const i of this.bands[band]!)
        if (sideMeetsBox(corners[i]!, corners[(i + 1) % corners.length]!, west, south, east, north)) return 'crossing';
    return this.contains(west, south) ? 'inside' : 'outside';
  }

  private bandOf(northing: number): number {
    const band = Math.floor((northing - this.min[1]) / this.bandHeight);
    return Math.max(0, Math.min(this.bandCount - 1, band));
  }
}

/** Whether a side touches a box (Liang and Barsky 1984: the side is cut by the box's four lines). */
function sideMeetsBox(
  [ae, an]: Place,
  [be, bn]: Place,
  west: number,
  south: number,
  east: number,
  north: number,
): boolean {
  let [from, to] = [0, 1];
  for (const [step, low, high] of [
    [be - ae, west - ae, east - ae],
    [bn - an, south - an, north - an],
  ] as const) {
    if (step === 0) {
      if (low > 0 || high < 0) return false;
      continue;
    }
    const [a, b] = step > 0 ? [low / step, high / step] : [high / step, low / step];
    from = Math.max(from, a);
    to = Math.min(to, b);
    if (from > to) return false;
  }
  return true;
}

function checkOutline(corners: readonly Place[]): void {
  const wrong = (what: string, fix: string): PamperoError => new PamperoError('outline-wrong', { what, fix });
  if (corners.length < 3)
    throw wrong(`An outline of ${corners.length} corners encloses nothing.`, 'Give it three corners at least.');
  if (!corners.every(([e, n]) => Number.isFinite(e) && Number.isFinite(n)))
    throw wrong('A corner of the outline is no place.', 'Draw it again.');
  const [e0, n0] = corners[0]!;
  const area = corners.reduce((sum, [e, n], i) => {
    const [fe, fn] = corners[(i + 1) % corners.length]!;
    return sum + (e - e0) * (fn - n0) - (fe - e0) * (n - n0);
  }, 0);
  const crossing = firstCrossing(corners);
  if (crossing)
    throw wrong(
      `The outline’s sides ${crossing[0] + 1} and ${crossing[1] + 1} cross each other.`,
      'Draw it so that no side crosses another.',
    );
  if (area === 0) throw wrong('The outline encloses no area.', 'Draw it so that it goes round something.');
}

/** Two sides that cross, by number; found by sorting sides by their westmost place. */
function firstCrossing(corners: readonly Place[]): [number, number] | undefined {
  const count = corners.length;
  const sides = corners.map((a, i) => {
    const b = corners[(i + 1) % count]!;
    return { i, a, b, west: Math.min(a[0], b[0]), east: Math.max(a[0], b[0]) };
  });
  const sorted = [...sides].sort((p, q) => p.west - q.west);
  for (let k = 0; k < count; k++) {
    const p = sorted[k]!;
    for (let l = k + 1; l < count && sorted[l]!.west <= p.east; l++) {
      const q = sorted[l]!;
      const isNeighbour = (p.i + 1) % count === q.i || (q.i + 1) % count === p.i;
      if (!isNeighbour && cross(p.a, p.b, q.a, q.b)) return [Math.min(p.i, q.i), Math.max(p.i, q.i)];
    }
  }
  return undefined;
}

function turn([ae, an]: Place, [be, bn]: Place, [ce, cn]: Place): number {
  return Math.sign((be - ae) * (cn - an) - (bn - an) * (ce - ae));
}

/** Sides that cut through each other; a mere touch is let pass. */
function cross(a: Place, b: Place, c: Place, d: Place): boolean {
  return turn(a, b, c) * turn(a, b, d) < 0 && turn(c, d, a) * turn(c, d, b) < 0;
}
