import { LineError } from './line-error.js';
import { cornerAt, cornerBetween, cornersOf, legCount, shapeOf, type Corner, type LineShape } from './line-shape.js';
import { crossingsOf } from './segments.js';

/** A place on a line: on which leg, and how far along it. */
export interface LinePlace {
  readonly leg: number;
  readonly share: number;
}

/** Puts a corner in. */
export function withCorner(line: LineShape, { leg, share }: LinePlace): LineShape {
  const corners = cornersOf(line);
  corners.splice(leg + 1, 0, onLeg(line, leg, share));
  return shapeOf(corners, line.isClosed);
}

/** Takes a corner out; the last two (three of a ring) stay. */
export function withoutCorner(line: LineShape, corner: number): LineShape {
  if (line.easting.length <= (line.isClosed ? 3 : 2))
    throw new LineError('line-too-short', {
      what: `A ${line.isClosed ? 'closed line needs three vertices' : 'line needs two vertices'}.`,
      fix: 'Remove the line instead.',
    });
  return shapeOf(
    cornersOf(line).filter((_, k) => k !== corner),
    line.isClosed,
  );
}

export function withCornerAt(line: LineShape, corner: number, to: Corner): LineShape {
  return shapeOf(
    cornersOf(line).map((old, k) => (k === corner ? to : old)),
    line.isClosed,
  );
}

/** Two lines of one; a ring becomes one line that begins and ends there. */
export function splitLine(line: LineShape, { leg, share }: LinePlace): LineShape[] {
  const corners = cornersOf(line);
  const here = onLeg(line, leg, share);
  const [before, after] = [corners.slice(0, leg + 1), corners.slice(leg + 1)];
  const isSame = (corner: Corner | undefined): boolean => corner?.e === here.e && corner.n === here.n;
  const left = isSame(before.at(-1)) ? before : [...before, here];
  const right = isSame(after[0]) ? after : [here, ...after];
  if (line.isClosed) return [shapeOf([...right, ...left], false)];
  return [left, right].filter((part) => part.length > 1).map((part) => shapeOf(part, false));
}

export function reverseLine(line: LineShape): LineShape {
  return shapeOf(cornersOf(line).reverse(), line.isClosed);
}

/**
 * One line of two, at the ends that lie nearest to each other; the first keeps its direction. Ends within the tolerance become one
 * corner (that of the first), others a leg between them.
 * @throws LineError `lines-apart` where they are further apart than `furthest`
 */
export function joinLines(a: LineShape, b: LineShape, tolerance: number, furthest = Infinity): LineShape {
  if (a.isClosed || b.isClosed)
    throw new LineError('lines-apart', { what: 'A closed line has no ends.', fix: 'Split it first.' });
  const [ca, cb] = [cornersOf(a), cornersOf(b)];
  const gap = (p: Corner, q: Corner): number => Math.hypot(p.e - q.e, p.n - q.n);
  const ways = [
    { apart: gap(ca.at(-1)!, cb[0]!), first: ca, then: cb },
    { apart: gap(ca.at(-1)!, cb.at(-1)!), first: ca, then: [...cb].reverse() },
    { apart: gap(ca[0]!, cb.at(-1)!), first: cb, then: ca },
    { apart: gap(ca[0]!, cb[0]!), first: [...cb].reverse(), then: ca },
  ];
  const { apart, first, then } = ways.reduce((best, way) => (way.apart < best.apart ? way : best));
  if (apart > furthest)
    throw new LineError('lines-apart', {
      what: `The nearest ends are ${apart.toFixed(2)} apart.`,
      fix: 'Extend one of the lines, or allow a larger gap.',
    });
  const isOne = apart <= tolerance;
  // The corner kept where they meet is that of the first line given.
  const joined = !isOne ? [...first, ...then] : first === ca ? [...first, ...then.slice(1)] : [...first.slice(0, -1), ...then]; // prettier-ignore
  const [start, end] = [joined[0]!, joined.at(-1)!];
  const closes = joined.length > 3 && gap(start, end) <= tolerance;
  return shapeOf(closes ? joined.slice(0, -1) : joined, closes);
}

/**
 * Cuts a line off where it crosses another: what lies beyond the crossing nearest to the given end goes.
 * @throws LineError `no-crossing`
 */
export function trimLine(line: LineShape, to: LineShape, end: 'start' | 'end'): LineShape {
  const crossings = crossingsOf(line, to)
    .map(({ legA, shareA }) => ({ leg: legA, share: shareA, along: legA + shareA }))
    .filter(({ along }) => along > 1e-9 && along < legCount(line) - 1e-9)
    .sort((p, q) => p.along - q.along);
  const at = end === 'start' ? crossings[0] : crossings.at(-1);
  if (!at || line.isClosed)
    throw new LineError('no-crossing', {
      what: line.isClosed ? 'A closed line has no end to trim.' : 'The lines do not cross.',
      fix: line.isClosed ? 'Split it first.' : 'Extend one of them, or choose another.',
    });
  const parts = splitLine(line, at);
  return end === 'start' ? parts.at(-1)! : parts[0]!;
}

/**
 * Lengthens a line straight on, at its grade, by a distance in plan or to where it meets another.
 * @throws LineError `no-crossing` where it never does
 */
export function extendLine(line: LineShape, end: 'start' | 'end', by: number | LineShape): LineShape {
  const corners = cornersOf(line);
  if (line.isClosed || corners.length < 2)
    throw new LineError('no-crossing', { what: 'A closed line has no end to extend.', fix: 'Split it first.' });
  const [last, before] = end === 'end' ? [corners.at(-1)!, corners.at(-2)!] : [corners[0]!, corners[1]!];
  const length = Math.hypot(last.e - before.e, last.n - before.n);
  const far = typeof by === 'number' ? by : reachOf(last, by) + length;
  const place = cornerBetween(before, last, (length + far) / length);
  if (typeof by === 'number') return placed(place);
  const met = crossingsOf(shapeOf([last, place], false), by)
    .filter(({ shareA }) => shareA > 1e-12)
    .sort((p, q) => p.shareA - q.shareA)[0];
  if (!met)
    throw new LineError('no-crossing', {
      what: 'Straight on, the line never meets the other.',
      fix: 'Turn its last leg towards it, or choose another line.',
    });
  return placed(cornerBetween(last, place, met.shareA));

  function placed(corner: Corner): LineShape {
    return shapeOf(end === 'end' ? [...corners, corner] : [corner, ...corners], false);
  }
}

/** How far the furthest corner of a line lies from a place. */
function reachOf({ e, n }: Corner, { easting, northing }: LineShape): number {
  let most = 0;
  for (let k = 0; k < easting.length; k++) most = Math.max(most, Math.hypot(easting[k]! - e, northing[k]! - n));
  return most;
}

function onLeg(line: LineShape, leg: number, share: number): Corner {
  return cornerBetween(cornerAt(line, leg), cornerAt(line, (leg + 1) % line.easting.length), share);
}
