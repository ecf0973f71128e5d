import { cornerAt, legCount, shapeOf, type LineShape } from './line-shape.js';
import { selfCrossings } from './segments.js';

/**
 * Leaves out corners that lie within a tolerance of the line without them, in space (Douglas and Peucker 1973, "Algorithms for the
 * reduction of the number of points required to represent a digitized line or its caricature"). Corners without an elevation count
 * in plan. A line that did not cross itself does not afterwards: where it would, corners come back.
 * @param tolerance - job units
 */
export function simplifyLine(line: LineShape, tolerance: number): LineShape {
  const count = line.easting.length;
  if (count < 3) return line;
  const isKept = new Uint8Array(count);
  const spans: [number, number][] = [];
  if (line.isClosed) {
    // A ring is two lines: from its first corner to the one furthest from it, and back.
    let [far, most] = [0, -1];
    for (let k = 1; k < count; k++) {
      const d = Math.hypot(line.easting[k]! - line.easting[0]!, line.northing[k]! - line.northing[0]!);
      if (d > most) [far, most] = [k, d];
    }
    isKept[0] = isKept[far] = 1;
    spans.push([0, far], [far, count]);
  } else {
    isKept[0] = isKept[count - 1] = 1;
    spans.push([0, count - 1]);
  }
  for (let span = spans.pop(); span; span = spans.pop()) {
    const { at, distance } = furthest(line, ...span);
    if (distance <= tolerance) continue;
    isKept[at] = 1;
    spans.push([span[0], at], [at, span[1]]);
  }
  if (line.isClosed) keepThree(line, isKept);
  return withoutCrossings(line, isKept);
}

/** The corner between two (the second may be the first again) furthest from the leg that joins them. */
function furthest(line: LineShape, from: number, to: number): { at: number; distance: number } {
  const { easting, northing, elevation } = line;
  const end = to % easting.length;
  const isInSpace = !Number.isNaN(elevation[from]! + elevation[end]!);
  const [ue, un] = [easting[end]! - easting[from]!, northing[end]! - northing[from]!];
  const uz = isInSpace ? elevation[end]! - elevation[from]! : 0;
  const square = ue * ue + un * un + uz * uz;
  let [at, most] = [from, -1];
  for (let k = from + 1; k < to; k++) {
    const [pe, pn] = [easting[k]! - easting[from]!, northing[k]! - northing[from]!];
    const pz = isInSpace && !Number.isNaN(elevation[k]!) ? elevation[k]! - elevation[from]! : NaN;
    const dot = pe * ue + pn * un + (Number.isNaN(pz) ? 0 : pz * uz);
    const share = square > 0 ? Math.max(0, Math.min(1, dot / square)) : 0;
    const rest = Number.isNaN(pz) ? 0 : pz - share * uz;
    const distance = Math.hypot(pe - share * ue, pn - share * un, rest);
    if (distance > most) [at, most] = [k, distance];
  }
  return { at, distance: most };
}

/** A ring has an area. */
function keepThree(line: LineShape, isKept: Uint8Array): void {
  if (isKept.reduce((sum, bit) => sum + bit, 0) >= 3) return;
  const kept = [...isKept.keys()].filter((k) => isKept[k] === 1);
  const best = [
    furthest(line, kept[0]!, kept[1]!),
    furthest(line, kept[1]!, line.easting.length + (kept[0] === 0 ? 0 : kept[0]!)),
  ].reduce((a, b) => (b.distance > a.distance ? b : a));
  isKept[best.at] = 1;
}

function withoutCrossings(line: LineShape, isKept: Uint8Array): LineShape {
  const mayCross = selfCrossings(line).length > 0;
  for (;;) {
    const kept = [...isKept.keys()].filter((k) => isKept[k] === 1);
    const simple = shapeOf(
      kept.map((k) => cornerAt(line, k)),
      line.isClosed,
    );
    if (mayCross) return simple;
    const crossings = selfCrossings(simple);
    let added = 0;
    for (const { legA, legB } of crossings)
      for (const leg of [legA, legB]) {
        const from = kept[leg]!;
        const to = leg + 1 < kept.length ? kept[leg + 1]! : line.easting.length;
        const { at, distance } = furthest(line, from, to);
        if (distance < 0 || at === from || isKept[at] === 1) continue;
        isKept[at] = 1;
        added++;
      }
    if (added === 0 || legCount(simple) < 3) return simple;
  }
}
