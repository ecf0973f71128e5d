import { NO_PICTURE, QUARTERS } from './alike.js';

/** No colour further than this is taken for alike unless it is typed; one step at a time, looking so many steps to either side. */
const [MOST, STEP, BESIDE] = [32, 1, 2];
/** Pixels about a place that tell which piece it is. */
const NEAR = 2;
/** So much growth a step, of its own area, is none. */
const STILL = 0.004;
/** What grows less than so many times as fast as the stillest is as still. */
const TWICE = 2;

/**
 * The tolerance at which the land about the places picked grows least when more is let in: where its edge is plain, a range of tolerances finds the same edge. After
 * Matas, Chum, Urban and Pajdla 2002, "Robust wide baseline stereo from maximally stable extremal regions", BMVC, 384-393.
 * @param far - quarters of colour difference
 * @param places - column and row of each; none: all that is alike counts
 * @param least - tolerances from here on
 */
export function stableTolerance(
  far: Uint8Array,
  size: { readonly columns: number; readonly rows: number },
  places: readonly (readonly [column: number, row: number])[],
  least: number,
): number {
  const tolerances: number[] = [];
  for (let t = least; t <= Math.max(least, MOST); t += STEP) tolerances.push(t);
  const areas = areasAt(
    far,
    size,
    places,
    tolerances.map((tolerance) => Math.floor(tolerance * QUARTERS)),
  );
  const growth = tolerances.map((_, k) => {
    const [a, b] = [areas[Math.max(0, k - BESIDE)]!, areas[Math.min(areas.length - 1, k + BESIDE)]!];
    const steps = Math.min(areas.length - 1, k + BESIDE) - Math.max(0, k - BESIDE);
    return steps === 0 || areas[k] === 0 ? Infinity : Math.max(STILL, (b - a) / areas[k]! / steps);
  });
  // The first that is about as still as any, and stiller than those beside it: later ones let in what merely touches, a shadow at the shore.
  const stillest = growth.reduce((a, b) => Math.min(a, b), Infinity);
  const best = growth.findIndex(
    (own, k) =>
      own <= TWICE * stillest && growth.slice(Math.max(0, k - BESIDE), k + BESIDE + 1).every((other) => own <= other),
  );
  return tolerances[Math.max(0, best)]!;
}

/**
 * How many pixels hang together with the places when those up to each limit are let in: a flood that starts at the places and rises, as water would, over what is
 * least far first (Nistér and Stewénius 2008, "Linear time maximally stable extremal regions", ECCV, 183-196). Land that it does not reach costs nothing.
 * @param limits - quarters, rising
 */
function areasAt(
  far: Uint8Array,
  { columns, rows }: { readonly columns: number; readonly rows: number },
  places: readonly (readonly [number, number])[],
  limits: readonly number[],
): number[] {
  const last = Math.min(NO_PICTURE - 1, limits.at(-1)!);
  if (places.length === 0) {
    const counts = new Uint32Array(NO_PICTURE + 1);
    for (let at = 0; at < far.length; at++) counts[far[at]!]!++;
    for (let k = 1; k < counts.length; k++) counts[k]! += counts[k - 1]!;
    return limits.map((limit) => counts[Math.min(last, limit)]!);
  }
  const waiting = Array.from({ length: last + 1 }, () => new Waiting());
  // What is beyond the last limit, and what was met already, is none of it.
  const isDone = new Uint8Array(far.length);
  for (const [c, r] of places)
    for (let row = Math.max(0, Math.floor(r) - NEAR); row <= Math.min(rows - 1, Math.floor(r) + NEAR); row++)
      for (
        let column = Math.max(0, Math.floor(c) - NEAR);
        column <= Math.min(columns - 1, Math.floor(c) + NEAR);
        column++
      ) {
        const at = row * columns + column;
        if (far[at]! > last || isDone[at] === 1) continue;
        isDone[at] = 1;
        waiting[far[at]!]!.add(at);
      }
  let level = 0;
  let area = 0;
  return limits.map((limit) => {
    for (const end = Math.min(last, limit); level <= end; level++) {
      const here = waiting[level]!;
      for (let at = here.take(); at >= 0; at = here.take()) {
        area++;
        const column = at % columns;
        const [left, right] = [column > 0 ? -1 : 0, column < columns - 1 ? 1 : 0];
        const [above, below] = [at >= columns ? -columns : 0, at + columns < far.length ? columns : 0];
        for (let line = at + above; line <= at + below; line += columns)
          for (let other = line + left; other <= line + right; other++) {
            if (isDone[other] === 1) continue;
            const own = far[other]!;
            if (own > last) continue;
            isDone[other] = 1;
            if (own <= level) here.add(other);
            else waiting[own]!.add(other);
          }
      }
    }
    return area;
  });
}

/** Pixels that wait for the flood to come to their level: the last that came is the first that goes. */
class Waiting {
  private pixels = new Int32Array(64);
  private count = 0;

  add(at: number): void {
    if (this.count === this.pixels.length) {
      const more = new Int32Array(2 * this.count);
      more.set(this.pixels);
      this.pixels = more;
    }
    this.pixels[this.count++] = at;
  }

  /** -1 where none waits. */
  take(): number {
    return this.count === 0 ? -1 : this.pixels[--this.count]!;
  }
}
