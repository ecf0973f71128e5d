import type { SeenBest } from './seen-best.js';

/** What two photographs say of the points that both see: differences of the logarithms of colours, and sums of lightness. */
export interface PairSums {
  readonly one: number;
  readonly other: number;
  count: number;
  readonly ratio: [number, number, number];
  /** Σx, Σy, Σx², Σy², Σxy of the lightness in the one and in the other. */
  readonly light: [number, number, number, number, number];
}

/** Photographs of a point that are compared with each other: those that see it best. */
const MOST_COMPARED = 4;
/** Colours darker than this are noise as a ratio. */
const DARKEST = 8;

/** Gathers what photographs say of the same points. */
export class OverlapSums {
  private readonly pairs = new Map<number, PairSums>();
  /** The photographs that see a point best, best first. */
  private readonly best = new Int32Array(MOST_COMPARED);

  constructor(private readonly count: number) {}

  /** @param index - of each photograph of `seen` among all */
  add({ quality, colours }: SeenBest, index: readonly number[]): void {
    const best = this.best;
    let found = 0;
    for (let k = 0; k < quality.length; k++) {
      if (!(quality[k]! > 0)) continue;
      let at = found < MOST_COMPARED ? found++ : MOST_COMPARED;
      for (; at > 0 && quality[best[at - 1]!]! < quality[k]!; at--) if (at < MOST_COMPARED) best[at] = best[at - 1]!;
      if (at < MOST_COMPARED) best[at] = k;
    }
    for (let a = 0; a < found; a++)
      for (let b = a + 1; b < found; b++) {
        const i = Math.min(best[a]!, best[b]!);
        const j = Math.max(best[a]!, best[b]!);
        const pair = this.pair(index[i]!, index[j]!);
        pair.count++;
        for (let band = 0; band < 3; band++)
          pair.ratio[band]! += Math.log(
            Math.max(DARKEST, colours[3 * j + band]!) / Math.max(DARKEST, colours[3 * i + band]!),
          );
        const x = colours[3 * i]! + 2 * colours[3 * i + 1]! + colours[3 * i + 2]!;
        const y = colours[3 * j]! + 2 * colours[3 * j + 1]! + colours[3 * j + 2]!;
        const { light } = pair;
        light[0] += x;
        light[1] += y;
        light[2] += x * x;
        light[3] += y * y;
        light[4] += x * y;
      }
  }

  /** In an order of their own, whatever the points' was. */
  list(): PairSums[] {
    return [...this.pairs.values()].sort((a, b) => a.one - b.one || a.other - b.other);
  }

  private pair(one: number, other: number): PairSums {
    const key = one * this.count + other;
    const known = this.pairs.get(key);
    if (known) return known;
    const fresh: PairSums = { one, other, count: 0, ratio: [0, 0, 0], light: [0, 0, 0, 0, 0] };
    this.pairs.set(key, fresh);
    return fresh;
  }
}

/** How well photographs agree about the points that two of them see. */
export interface Agreement {
  /** Correlation of lightness within pairs, -1 to 1; NaN where no two see the same points. */
  readonly correlation: number;
  readonly points: number;
}

/** Fewer points tell nothing of a pair. */
const LEAST_POINTS = 12;

export function agreementOf(pairs: readonly PairSums[]): Agreement {
  let [together, one, other, points] = [0, 0, 0, 0];
  for (const { count, light } of pairs) {
    if (count < LEAST_POINTS) continue;
    const [x, y, xx, yy, xy] = light;
    together += xy - (x * y) / count;
    one += xx - (x * x) / count;
    other += yy - (y * y) / count;
    points += count;
  }
  return { correlation: points > 0 ? together / Math.sqrt(Math.max(1e-12, one * other)) : NaN, points };
}
