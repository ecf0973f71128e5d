import { eachNeighbour, type RasterFrame } from '../raster/index.js';

/**
 * Points as they are seen from straight above: in each cell the mean of those that lie no deeper under the highest one than a layer is thick, so that a
 * roof hides what stands under it and noise is evened out. Two passes: heights first, then values. Sums of whole numbers, so the order of points does not matter.
 */
export class SeenFromAbove {
  /** Of each cell, −∞ where there is no point. Row 0 is the southernmost. */
  readonly top: Float64Array;
  private readonly counts: Uint32Array;
  private readonly sums: readonly Float64Array[];

  /**
   * @param bands - whole numbers a point has
   * @param layer - thickness of what is seen, job units
   */
  constructor(
    private readonly frame: RasterFrame,
    bands: number,
    private readonly layer: number,
  ) {
    const cells = frame.columns * frame.rows;
    this.top = new Float64Array(cells).fill(-Infinity);
    this.counts = new Uint32Array(cells);
    this.sums = Array.from({ length: bands }, () => new Float64Array(cells));
  }

  enterHeight(east: number, north: number, elevation: number): void {
    const at = this.cellAt(east, north);
    if (at >= 0 && elevation > this.top[at]!) this.top[at] = elevation;
  }

  enterValues(east: number, north: number, elevation: number, values: ArrayLike<number>): void {
    const at = this.cellAt(east, north);
    if (at < 0 || elevation < this.top[at]! - this.layer) return;
    this.counts[at]!++;
    for (let band = 0; band < this.sums.length; band++) this.sums[band]![at]! += values[band]!;
  }

  /** The mean of a band in each cell; NaN where there is no point. */
  band(band: number): Float32Array<ArrayBuffer> {
    const out = new Float32Array(this.counts.length);
    for (let at = 0; at < out.length; at++) out[at] = this.sums[band]![at]! / this.counts[at]!;
    return out;
  }

  /** The highest point of each cell; NaN where there is none. */
  heights(): Float32Array<ArrayBuffer> {
    return Float32Array.from(this.top, (z) => (z === -Infinity ? NaN : z));
  }

  private cellAt(east: number, north: number): number {
    const { columns, rows, cell } = this.frame;
    const [column, row] = [Math.floor((east - this.frame.east) / cell), Math.floor((north - this.frame.north) / cell)];
    return column < 0 || row < 0 || column >= columns || row >= rows ? -1 : row * columns + column;
  }
}

/**
 * Fills small gaps between cells from the cells about them, ring by ring; what lies outside the cells altogether stays empty (a closing: as many rings
 * inwards again from outside as went outwards). Cells nearer to the rim of the rasters than twice the rings may be filled that ought not to be: give a margin.
 * @param bands - rasters of one frame that are empty (NaN) in the same cells; changed
 * @param rings - gaps of up to twice as many cells are filled
 */
export function fillGaps(
  bands: readonly Float32Array[],
  { columns, rows }: Pick<RasterFrame, 'columns' | 'rows'>,
  rings: number,
): void {
  const [first] = bands;
  if (!first || rings === 0) return;
  const cells = columns * rows;
  const before = Uint8Array.from(first, (value) => (Number.isNaN(value) ? 0 : 1));
  const known = before.slice();
  for (let ring = 0; ring < rings; ring++) {
    const fresh: number[] = [];
    for (let at = 0; at < cells; at++) {
      if (known[at] === 1) continue;
      const sums = new Float64Array(bands.length);
      let count = 0;
      eachNeighbour({ columns, rows }, at, (k) => {
        if (known[k] === 0) return;
        count++;
        bands.forEach((band, b) => (sums[b]! += band[k]!));
      });
      if (count === 0) continue;
      fresh.push(at);
      bands.forEach((band, b) => (band[at] = sums[b]! / count));
    }
    if (fresh.length === 0) break;
    for (const at of fresh) known[at] = 1;
  }
  for (let ring = 0; ring < rings; ring++) {
    const gone: number[] = [];
    for (let at = 0; at < cells; at++) {
      if (known[at] === 0 || before[at] === 1) continue;
      let touches = false;
      eachNeighbour({ columns, rows }, at, (k) => {
        if (known[k] === 0) touches = true;
      });
      if (touches) gone.push(at);
    }
    if (gone.length === 0) break;
    for (const at of gone) known[at] = 0;
  }
  for (let at = 0; at < cells; at++) if (known[at] === 0) for (const band of bands) band[at] = NaN;
}
