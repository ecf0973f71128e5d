/** Places as columns, job units about any origin. */
export interface Places {
  readonly count: number;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  /** How sure the source is of each, where it says; NaN where it does not. */
  readonly confidence?: Float32Array;
}

/** Cubes a table has at most; where the extent holds more, cubes share places in it. */
const MOST_CELLS = 1 << 24;
/** Points a column of cubes may hold on the average, to be looked through as one. */
const MOST_A_COLUMN = 24;

/**
 * Points by cubes of a side, each cube's points one after another in memory: neighbours are found by walking the 27 cubes
 * about a point, row by row, in the order memory has them. Where the land is small enough each cube has a place of its own in
 * the table, with an empty rim, so that nothing is asked at its edges; otherwise each column has, or places are shared by a hash.
 */
export class NeighbourGrid {
  /** Points sorted by cube. */
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  /** Which place each sorted point was. */
  readonly order: Uint32Array;
  private readonly starts: Uint32Array;
  private readonly isShared: boolean;
  private readonly isFlat: boolean;
  /** Where cubes are shared: places in the table less one. Otherwise the steps from row to row and from layer to layer. */
  private readonly mask: number;
  private readonly wide: number;
  private readonly deep: number;
  private readonly tall: number;
  private readonly rowStep: number;
  private readonly layerStep: number;
  private readonly lowX: number;
  private readonly lowY: number;
  private readonly lowZ: number;
  private readonly inverse: number;

  /**
   * @param side - of a cube; queries reach maximum extent this
   * @param isFlat - cubes are columns of unlimited height: distance in plan only
   */
  constructor(
    places: Places,
    readonly side: number,
    isFlat = false,
  ) {
    const { count, x, y, z } = places;
    let [lowX, lowY, lowZ] = [Infinity, Infinity, Infinity];
    let [highX, highY, highZ] = [-Infinity, -Infinity, -Infinity];
    for (let i = 0; i < count; i++) {
      const px = x[i]!;
      const py = y[i]!;
      const pz = z[i]!;
      if (px < lowX) lowX = px;
      if (px > highX) highX = px;
      if (py < lowY) lowY = py;
      if (py > highY) highY = py;
      if (pz < lowZ) lowZ = pz;
      if (pz > highZ) highZ = pz;
    }
    this.lowX = lowX;
    this.lowY = lowY;
    this.lowZ = lowZ;
    this.inverse = 1 / side;
    const cells = (low: number, high: number): number => (count === 0 ? 3 : Math.floor((high - low) / side) + 3);
    const [wide, deep] = [cells(lowX, highX), cells(lowY, highY)];
    const most = Math.min(MOST_CELLS, 32 * count + 65_536);
    let tall = isFlat ? 1 : cells(lowZ, highZ);
    // Land is wide and low: where cubes are too many, columns of unlimited height hold few points more.
    if (wide * deep * tall > most && count < MOST_A_COLUMN * wide * deep) tall = 1;
    this.isFlat = tall === 1;
    this.isShared = !(wide * deep * tall <= most);
    let slots = 1024;
    while (slots < count && slots < MOST_CELLS) slots *= 2;
    this.mask = slots - 1;
    if (!this.isShared) slots = wide * deep * tall;
    this.wide = wide;
    this.deep = deep;
    this.tall = tall;
    this.rowStep = wide;
    this.layerStep = wide * deep;
    const starts = new Uint32Array(slots + 1);
    const slotOf = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const slot = this.slot(
        Math.floor((x[i]! - lowX) * this.inverse),
        Math.floor((y[i]! - lowY) * this.inverse),
        this.isFlat ? 0 : Math.floor((z[i]! - lowZ) * this.inverse),
      );
      slotOf[i] = slot;
      starts[slot + 1]!++;
    }
    for (let s = 0; s < slots; s++) starts[s + 1]! += starts[s]!;
    const next = starts.slice(0, slots);
    this.starts = starts;
    this.order = new Uint32Array(count);
    this.x = new Float64Array(count);
    this.y = new Float64Array(count);
    this.z = new Float64Array(count);
    for (let i = 0; i < count; i++) {
      const at = next[slotOf[i]!]!++;
      this.order[at] = i;
      this.x[at] = x[i]!;
      this.y[at] = y[i]!;
      this.z[at] = z[i]!;
    }
  }

  private slot(cx: number, cy: number, cz: number): number {
    if (this.isShared) return (cx + Math.imul(cy, 0x9e3779b1) + Math.imul(cz, 0x85ebca77)) & this.mask;
    return (this.isFlat ? 0 : (cz + 1) * this.layerStep) + (cy + 1) * this.rowStep + cx + 1;
  }

  /**
   * Collects what lies in the cubes about one of the places: ranges of sorted points, without repeats.
   * @param ranges - filled with first and end of each range, one after another
   * @returns how many numbers of `ranges` are in use
   */
  around(x: number, y: number, z: number, ranges: Uint32Array): number {
    const cx = Math.floor((x - this.lowX) * this.inverse);
    const cy = Math.floor((y - this.lowY) * this.inverse);
    const cz = this.isFlat ? 0 : Math.floor((z - this.lowZ) * this.inverse);
    const { starts } = this;
    const reachZ = this.isFlat ? 0 : 1;
    if (this.isShared) return this.aroundShared(cx, cy, cz, ranges);
    let used = 0;
    for (let dz = -reachZ; dz <= reachZ; dz++) {
      let slot = this.slot(cx, cy - 1, cz + dz) - 1;
      for (let row = 0; row < 3; row++, slot += this.rowStep) {
        const first = starts[slot]!;
        const end = starts[slot + 3]!;
        if (end > first) {
          ranges[used++] = first;
          ranges[used++] = end;
        }
      }
    }
    return used;
  }

  /**
   * The cube, or column, about one of the places alone: where most of its near neighbours are, and none is missed that is not.
   * @param range - filled with its first sorted point and its end
   */
  own(x: number, y: number, z: number, range: Uint32Array): void {
    const slot = this.slot(
      Math.floor((x - this.lowX) * this.inverse),
      Math.floor((y - this.lowY) * this.inverse),
      this.isFlat ? 0 : Math.floor((z - this.lowZ) * this.inverse),
    );
    range[0] = this.starts[slot]!;
    range[1] = this.starts[slot + 1]!;
  }

  /** Whether {@link aroundWide} can be asked; where not, a coarser grid has to be made. */
  get canReachFar(): boolean {
    return !this.isShared;
  }

  /**
   * As {@link around}, but so many cubes to every side: all within `reach` times the side is among what is found.
   * @returns ranges of sorted points, first and end after one another
   */
  aroundWide(x: number, y: number, z: number, reach: number): number[] {
    const place = (value: number, low: number): number => Math.floor((value - low) * this.inverse) + 1;
    const [cx, cy, cz] = [place(x, this.lowX), place(y, this.lowY), this.isFlat ? 0 : place(z, this.lowZ)];
    const [left, right] = [Math.max(0, cx - reach), Math.min(this.wide - 1, cx + reach)];
    const [near, far] = [Math.max(0, cy - reach), Math.min(this.deep - 1, cy + reach)];
    const [under, over] = this.isFlat ? [0, 0] : [Math.max(0, cz - reach), Math.min(this.tall - 1, cz + reach)];
    const ranges: number[] = [];
    for (let layer = under; layer <= over; layer++)
      for (let row = near; row <= far; row++) {
        const slot = layer * this.layerStep + row * this.rowStep;
        const first = this.starts[slot + left]!;
        const end = this.starts[slot + right + 1]!;
        if (end > first) ranges.push(first, end);
      }
    return ranges;
  }

  private aroundShared(cx: number, cy: number, cz: number, ranges: Uint32Array): number {
    const { starts, mask } = this;
    const reachZ = this.isFlat ? 0 : 1;
    let used = 0;
    for (let dz = -reachZ; dz <= reachZ; dz++) {
      for (let dy = -1; dy <= 1; dy++) {
        // Three places side by side, but for the wrap at the table's end.
        const slot = this.slot(cx - 1, cy + dy, cz + dz);
        const first = starts[slot]!;
        let end: number;
        if (slot + 2 <= mask) end = starts[slot + 3]!;
        else {
          end = starts[mask + 1]!;
          const rest = starts[3 - (mask + 1 - slot)]!;
          if (rest > 0) used = addRange(ranges, used, 0, rest);
        }
        if (end > first) used = addRange(ranges, used, first, end);
      }
    }
    return used;
  }
}

/** Adds a range where none of it is there already: two rows of cubes may share slots. */
function addRange(ranges: Uint32Array, used: number, first: number, end: number): number {
  for (let i = 0; i < used; i += 2) {
    const a = ranges[i]!;
    const b = ranges[i + 1]!;
    if (end <= a || first >= b) continue;
    // Keep what sticks out on either side.
    let count = used;
    if (first < a) count = addRange(ranges, count, first, a);
    if (end > b) count = addRange(ranges, count, b, end);
    return count;
  }
  ranges[used] = first;
  ranges[used + 1] = end;
  return used + 2;
}

/** Room for the ranges of one query. */
export const RANGES = 128;
