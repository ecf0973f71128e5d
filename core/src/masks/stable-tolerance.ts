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
 * How many pixels hang together with the places when those up to each limit are let in: pixels are let in from the nearest colour to the furthest, each joined with
 * the neighbours that are in (a forest of disjoint sets).
 * @param limits - quarters, rising
 */
function areasAt(
  far: Uint8Array,
  { columns, rows }: { readonly columns: number; readonly rows: number },
  places: readonly (readonly [number, number])[],
  limits: readonly number[],
): number[] {
  const last = Math.min(NO_PICTURE - 1, limits.at(-1)!);
  const starts = new Uint32Array(last + 2);
  for (let at = 0; at < far.length; at++) if (far[at]! <= last) starts[far[at]! + 1]!++;
  for (let k = 1; k < starts.length; k++) starts[k]! += starts[k - 1]!;
  if (places.length === 0) return limits.map((limit) => starts[Math.min(last, limit) + 1]!);
  const order = new Uint32Array(starts[last + 1]!);
  const next = starts.slice();
  for (let at = 0; at < far.length; at++) if (far[at]! <= last) order[next[far[at]!]!++] = at;
  // Negative: a root, with so many pixels. Not in yet: 0.
  const parent = new Int32Array(far.length);
  const root = (at: number): number => {
    while (parent[at]! > 0) {
      const up = parent[at]! - 1;
      if (parent[up]! > 0) parent[at] = parent[up]!;
      at = up;
    }
    return at;
  };
  const near = places.flatMap(([c, r]) => {
    const out: number[] = [];
    for (let row = Math.floor(r) - NEAR; row <= Math.floor(r) + NEAR; row++)
      for (let column = Math.floor(c) - NEAR; column <= Math.floor(c) + NEAR; column++)
        if (column >= 0 && row >= 0 && column < columns && row < rows) out.push(row * columns + column);
    return out;
  });
  let done = 0;
  return limits.map((limit) => {
    for (const end = starts[Math.min(last, limit) + 1]!; done < end; done++) {
      const at = order[done]!;
      parent[at] = -1;
      const [column, row] = [at % columns, Math.floor(at / columns)];
      let own = at;
      for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
        for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
          const other = r * columns + c;
          if (other === at || parent[other] === 0) continue;
          const top = root(other);
          if (top === own) continue;
          const [large, small] = parent[top]! < parent[own]! ? [top, own] : [own, top];
          parent[large]! += parent[small]!;
          parent[small] = large + 1;
          own = large;
        }
    }
    const roots = new Set(near.filter((at) => parent[at] !== 0).map(root));
    let area = 0;
    for (const top of roots) area -= parent[top]!;
    return area;
  });
}
