import { gatherPoints, type PointBatch, type Quantisation } from '../cloud/index.js';
import { PamperoError } from '../task/index.js';

/** Cubes that can be remembered as taken: some 400 MB. */
const MOST_CUBES = 25_000_000;
const LARGEST_KEY = 2 ** 53;

/** Places that are taken, by open addressing; twice as large as it needs to be. */
class PlaceSet {
  private keys = new Float64Array(1 << 16).fill(-1);
  private used = 0;

  /** False where it was there already. */
  add(key: number): boolean {
    if (this.used * 2 >= this.keys.length) this.grow();
    if (!insert(this.keys, key)) return false;
    this.used++;
    return true;
  }

  get size(): number {
    return this.used;
  }

  private grow(): void {
    const larger = new Float64Array(this.keys.length * 2).fill(-1);
    for (const key of this.keys) if (key >= 0) insert(larger, key);
    this.keys = larger;
  }
}

function insert(keys: Float64Array, key: number): boolean {
  const mask = keys.length - 1;
  let at = (Math.imul(key % 4_294_967_291, 0x9e37_79b1) ^ Math.floor(key / 2 ** 22)) & mask;
  while (keys[at]! >= 0) {
    if (keys[at] === key) return false;
    at = (at + 1) & mask;
  }
  keys[at] = key;
  return true;
}

/**
 * Passes on the first point of every cube of a given side, batch by batch. Fed with an additive octree from coarse to fine,
 * what remains is spread evenly. Real points are kept, none is moved.
 */
export class OnePointPerCube {
  private readonly taken = new PlaceSet();
  private readonly step: readonly number[];
  private readonly low: readonly number[];
  private readonly spans: readonly number[];

  /**
   * @param side - in coordinates
   * @param bounds - of all points, as scaled integers
   */
  constructor(
    private readonly side: number,
    bounds: { readonly min: readonly number[]; readonly max: readonly number[] },
    { scale }: Quantisation,
  ) {
    this.step = scale.map((s) => s / side);
    this.low = bounds.min;
    this.spans = [0, 1, 2].map((axis) => Math.floor((bounds.max[axis]! - bounds.min[axis]!) * this.step[axis]!) + 1);
    if (this.spans.reduce((product, span) => product * span, 1) >= LARGEST_KEY) throw this.tooFine();
  }

  /** @throws PamperoError `spacing-too-fine` where more cubes are taken than can be remembered */
  pass(batch: PointBatch): PointBatch {
    const { step, low, spans } = this;
    const kept = new Uint32Array(batch.count);
    let count = 0;
    for (let i = 0; i < batch.count; i++) {
      const x = Math.floor((batch.x[i]! - low[0]!) * step[0]!);
      const y = Math.floor((batch.y[i]! - low[1]!) * step[1]!);
      const z = Math.floor((batch.z[i]! - low[2]!) * step[2]!);
      if (this.taken.add((x * spans[1]! + y) * spans[2]! + z)) kept[count++] = i;
    }
    if (this.taken.size > MOST_CUBES) throw this.tooFine();
    return count === batch.count ? batch : gatherPoints(batch, kept.subarray(0, count));
  }

  private tooFine(): PamperoError {
    return new PamperoError('spacing-too-fine', {
      what: `At one point per cube of ${this.side} too many points are left to keep apart.`,
      fix: 'Choose a wider spacing, or take all points.',
    });
  }
}
