import Flatbush from 'flatbush';
import { type Legs, legCount, type LineShape } from './line-shape.js';

/** Where two legs meet in plan, with the share of each that lies before it. */
export interface LegCrossing {
  readonly legA: number;
  readonly legB: number;
  readonly shareA: number;
  readonly shareB: number;
  readonly easting: number;
  readonly northing: number;
}

type Ends = readonly [ae: number, an: number, be: number, bn: number];

export function legEnds({ easting, northing }: Omit<Legs, 'isClosed'>, leg: number): Ends {
  const next = (leg + 1) % easting.length;
  return [easting[leg]!, northing[leg]!, easting[next]!, northing[next]!];
}

/** Boxes of all legs of a line, for looking up. */
export function legIndex(line: Legs): Flatbush | undefined {
  const legs = legCount(line);
  if (legs === 0) return undefined;
  const index = new Flatbush(legs);
  for (let leg = 0; leg < legs; leg++) {
    const [ae, an, be, bn] = legEnds(line, leg);
    index.add(Math.min(ae, be), Math.min(an, bn), Math.max(ae, be), Math.max(an, bn));
  }
  index.finish();
  return index;
}

/** Where legs of one line cross legs of another; ends that touch count. */
export function crossingsOf(a: LineShape, b: LineShape, index = legIndex(b)): LegCrossing[] {
  const out: LegCrossing[] = [];
  for (let legA = 0; index && legA < legCount(a); legA++) {
    const p = legEnds(a, legA);
    for (const legB of near(index, p)) {
      const met = meeting(p, legEnds(b, legB));
      if (met) out.push({ legA, legB, ...met });
    }
  }
  return out;
}

/** Where a line crosses itself, legs that follow each other left out; in the order of the first leg. */
export function selfCrossings(line: LineShape): LegCrossing[] {
  const index = legIndex(line);
  const legs = legCount(line);
  const out: LegCrossing[] = [];
  for (let legA = 0; index && legA < legs; legA++) {
    const p = legEnds(line, legA);
    for (const legB of near(index, p)) {
      if (legB <= legA + 1 || (line.isClosed && legA === 0 && legB === legs - 1)) continue;
      const met = meeting(p, legEnds(line, legB));
      if (met) out.push({ legA, legB, ...met });
    }
  }
  return out;
}

function near(index: Flatbush, [ae, an, be, bn]: Ends): number[] {
  return index.search(Math.min(ae, be), Math.min(an, bn), Math.max(ae, be), Math.max(an, bn)).sort((a, b) => a - b);
}

/** Where two legs meet, ends included; undefined where they do not, or run side by side. */
export function meeting(
  [ae, an, be, bn]: Ends,
  [ce, cn, de, dn]: Ends,
): Pick<LegCrossing, 'shareA' | 'shareB' | 'easting' | 'northing'> | undefined {
  const [ue, un, ve, vn] = [be - ae, bn - an, de - ce, dn - cn];
  const det = ue * vn - un * ve;
  if (det === 0) return undefined;
  const shareA = ((ce - ae) * vn - (cn - an) * ve) / det;
  const shareB = ((ce - ae) * un - (cn - an) * ue) / det;
  if (shareA < 0 || shareA > 1 || shareB < 0 || shareB > 1) return undefined;
  return { shareA, shareB, easting: ae + shareA * ue, northing: an + shareA * un };
}
