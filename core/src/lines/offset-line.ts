import { LineError } from './line-error.js';
import { cornerAt, cornerBetween, legCount, shapeOf, sourceNumber, type Corner, type LineShape } from './line-shape.js';
import { legEnds, legIndex, selfCrossings } from './segments.js';

/** Corners are mitred up to this many offsets from the corner, and cut off beyond. */
const LONGEST_MITRE = 4;

/**
 * A line beside another: the top of a kerb from its foot. Legs keep their direction, corners are mitred; loops that a bend tighter
 * than the offset would leave are cut away.
 * @param distance - to the right in the line's direction, negative to the left; job units
 * @param rise - added to the elevations
 * @throws LineError `offset-vanishes` where nothing is left
 */
export function offsetLine(line: LineShape, distance: number, rise = 0): LineShape {
  const given = withoutRepeats(line);
  if (legCount(given) === 0)
    throw new LineError('line-too-short', { what: 'The line has no length.', fix: 'Give it two vertices at different places.' }); // prettier-ignore
  const moved = mitred(given, distance, rise);
  const shape = distance === 0 ? moved : withoutLoops(moved, given, Math.abs(distance));
  if (legCount(shape) < (line.isClosed ? 3 : 1))
    throw new LineError('offset-vanishes', {
      what: 'Nothing is left of the line at that distance: all its bends are tighter.',
      fix: 'Give a smaller distance, or the other side.',
    });
  return shape;
}

function withoutRepeats(line: LineShape): LineShape {
  const corners: Corner[] = [];
  for (let k = 0; k < line.easting.length; k++) {
    const [here, last] = [cornerAt(line, k), corners.at(-1)];
    if (!last || last.e !== here.e || last.n !== here.n) corners.push(here);
  }
  const [first, last] = [corners[0], corners.at(-1)];
  if (line.isClosed && corners.length > 1 && first!.e === last!.e && first!.n === last!.n) corners.pop();
  return shapeOf(corners, line.isClosed);
}

function mitred(line: LineShape, distance: number, rise: number): LineShape {
  const count = line.easting.length;
  const legs = legCount(line);
  /** To the right of a leg, one long. */
  const normals = Array.from({ length: legs }, (_, leg) => {
    const [ae, an, be, bn] = legEnds(line, leg);
    const length = Math.hypot(be - ae, bn - an);
    return [(bn - an) / length, -(be - ae) / length] as const;
  });
  const out: Corner[] = [];
  for (let k = 0; k < count; k++) {
    const corner = cornerAt(line, k);
    const put = (e: number, n: number): void => {
      const z = corner.z + rise;
      const source = Number.isNaN(z) ? 0 : rise === 0 && distance === 0 ? corner.source : sourceNumber('between');
      out.push({ e: corner.e + e * distance, n: corner.n + n * distance, z, source });
    };
    const before = line.isClosed ? normals[(k + legs - 1) % legs] : normals[k - 1];
    const after = line.isClosed ? normals[k % legs] : normals[k];
    if (!before || !after) {
      const [e, n] = (before ?? after)!;
      put(e, n);
      continue;
    }
    const cos = before[0] * after[0] + before[1] * after[1];
    // The mitre of two normals: along their sum, 1 / cos of half the bend long.
    const stretch = 1 / Math.max(1e-9, 1 + cos);
    const length = Math.sqrt(2 * stretch);
    if (length > LONGEST_MITRE) {
      put(...before);
      put(...after);
    } else put((before[0] + after[0]) * stretch, (before[1] + after[1]) * stretch);
  }
  return shapeOf(out, line.isClosed);
}

/** Cuts away what lies nearer to the line than the offset: in bends tighter than it the legs run backwards. */
function withoutLoops(moved: LineShape, line: LineShape, distance: number): LineShape {
  const pieces = cutAtCrossings(moved);
  const index = legIndex(line);
  const isFar = (e: number, n: number): boolean => {
    const reach = distance * (1 - 1e-6) - 1e-9;
    return !index
      ?.search(e - reach, n - reach, e + reach, n + reach)
      .some((leg) => distanceToLeg(line, leg, e, n) < reach);
  };
  const kept: Corner[] = [];
  let hasGap = false;
  pieces.forEach(([a, b], k) => {
    if (isFar((a.e + b.e) / 2, (a.n + b.n) / 2)) {
      const last = kept.at(-1);
      if (!last || last.e !== a.e || last.n !== a.n) kept.push(a);
      kept.push(b);
    } else if (k > 0) hasGap = true;
  });
  if (moved.isClosed && kept.length > 1) {
    const [first, last] = [kept[0]!, kept.at(-1)!];
    if (Math.hypot(first.e - last.e, first.n - last.n) < 1e-9) kept.pop();
  }
  return hasGap || kept.length !== moved.easting.length ? shapeOf(withoutSpikes(kept), moved.isClosed) : moved;
}

/** Corners at one place are one. */
function withoutSpikes(corners: readonly Corner[]): Corner[] {
  return corners.filter(({ e, n }, k) => k === 0 || Math.hypot(e - corners[k - 1]!.e, n - corners[k - 1]!.n) > 1e-9);
}

/** The legs, cut wherever the line crosses itself. */
function cutAtCrossings(line: LineShape): [Corner, Corner][] {
  const cuts = new Map<number, number[]>();
  const cut = (leg: number, share: number): void => {
    const list = cuts.get(leg);
    if (list) list.push(share);
    else cuts.set(leg, [share]);
  };
  for (const { legA, legB, shareA, shareB } of selfCrossings(line)) {
    cut(legA, shareA);
    cut(legB, shareB);
  }
  const out: [Corner, Corner][] = [];
  for (let leg = 0; leg < legCount(line); leg++) {
    const [a, b] = [cornerAt(line, leg), cornerAt(line, (leg + 1) % line.easting.length)];
    const shares = [0, ...(cuts.get(leg) ?? []).sort((p, q) => p - q), 1];
    for (let k = 1; k < shares.length; k++)
      if (shares[k]! > shares[k - 1]!) out.push([cornerBetween(a, b, shares[k - 1]!), cornerBetween(a, b, shares[k]!)]);
  }
  return out;
}

export function distanceToLeg(line: LineShape, leg: number, e: number, n: number): number {
  const { share } = nearestOnLeg(line, leg, e, n);
  const [ae, an, be, bn] = legEnds(line, leg);
  return Math.hypot(e - ae - share * (be - ae), n - an - share * (bn - an));
}

/** The place of a leg nearest to another, as a share of it. */
export function nearestOnLeg(line: LineShape, leg: number, e: number, n: number): { share: number } {
  const [ae, an, be, bn] = legEnds(line, leg);
  const [ue, un] = [be - ae, bn - an];
  const square = ue * ue + un * un;
  return { share: square > 0 ? Math.max(0, Math.min(1, ((e - ae) * ue + (n - an) * un) / square)) : 0 };
}

/** Which end of a line lies nearer to another line, in plan. */
export function nearerEnd(line: LineShape, other: LineShape): 'start' | 'end' {
  const distance = (k: number): number => {
    let least = Infinity;
    for (let leg = 0; leg < legCount(other); leg++)
      least = Math.min(least, distanceToLeg(other, leg, line.easting[k]!, line.northing[k]!));
    return least;
  };
  return distance(0) < distance(line.easting.length - 1) ? 'start' : 'end';
}
