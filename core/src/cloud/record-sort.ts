import { columnFrom } from '../columns/index.js';
import { Scratch } from './scratch.js';
import { CODE_BITS, type OctreeCube } from './octree-cube.js';

/** Squares along a side of the grid by which records are sorted: 2^7, the finest squares an octree can be built of. */
export const SQUARE_BITS = 7;
export const SQUARE_COUNT = 1 << (2 * SQUARE_BITS);

/** Records sorted by square, and how many lie in each. */
export interface SortedRecords {
  readonly records: Uint8Array<ArrayBuffer>;
  /** One count a square, squares in Z-order, so that those of any larger square follow one another. */
  readonly counts: Uint32Array<ArrayBuffer>;
  /** Least and greatest scaled integers met: x, y, z. */
  readonly min: [number, number, number];
  readonly max: [number, number, number];
}

/**
 * Sorts point records (x, y, z as 32-bit integers in their first twelve bytes, as all LAS formats have them) by the square
 * of the root cube's plan they lie in. Stable, one pass to count and one to move.
 * @param scratch - gives the array of the sorted records too, which is good until the next sorting
 */
export function sortRecords(
  records: Uint8Array,
  recordLength: number,
  count: number,
  cube: OctreeCube,
  scratch = new Scratch(),
): SortedRecords {
  const view = new DataView(records.buffer, records.byteOffset, count * recordLength);
  const squares = scratch.uint16('squares', count);
  const counts = new Uint32Array(SQUARE_COUNT);
  const { low, steps } = cube;
  const shrink = 2 ** (SQUARE_BITS - CODE_BITS);
  const stepX = steps[0] * shrink;
  const stepY = steps[1] * shrink;
  const most = (1 << SQUARE_BITS) - 1;
  let minX = Infinity,
    minY = Infinity,
    minZ = Infinity;
  let maxX = -Infinity,
    maxY = -Infinity,
    maxZ = -Infinity;
  for (let i = 0, at = 0; i < count; i++, at += recordLength) {
    const x = view.getInt32(at, true);
    const y = view.getInt32(at + 4, true);
    const z = view.getInt32(at + 8, true);
    if (x < minX) minX = x;
    if (x > maxX) maxX = x;
    if (y < minY) minY = y;
    if (y > maxY) maxY = y;
    if (z < minZ) minZ = z;
    if (z > maxZ) maxZ = z;
    let column = ((x - low[0]) * stepX) | 0;
    let row = ((y - low[1]) * stepY) | 0;
    if (column < 0) column = 0;
    else if (column > most) column = most;
    if (row < 0) row = 0;
    else if (row > most) row = most;
    const square = SPREAD[column]! | (SPREAD[row]! << 1);
    squares[i] = square;
    counts[square]!++;
  }
  const next = new Uint32Array(SQUARE_COUNT);
  for (let s = 1; s < SQUARE_COUNT; s++) next[s] = next[s - 1]! + counts[s - 1]!;
  const sorted = scratch.uint8('sorted records', count * recordLength);
  const isEven = recordLength % 2 === 0 && records.byteOffset % 2 === 0;
  if (isEven) moveWords(records, sorted, squares, next, recordLength);
  else
    for (let i = 0; i < count; i++)
      sorted.set(records.subarray(i * recordLength, (i + 1) * recordLength), next[squares[i]!]!++ * recordLength);
  return { records: sorted, counts, min: [minX, minY, minZ], max: [maxX, maxY, maxZ] };
}

/** Two bytes at a time: a call a record would cost more than the copying. */
function moveWords(
  records: Uint8Array,
  sorted: Uint8Array,
  squares: Uint16Array,
  next: Uint32Array,
  recordLength: number,
): void {
  const words = recordLength / 2;
  const from = new Uint16Array(records.buffer, records.byteOffset, squares.length * words);
  const to = new Uint16Array(sorted.buffer, 0, squares.length * words);
  for (let i = 0, source = 0; i < squares.length; i++, source += words) {
    let target = next[squares[i]!]!++ * words;
    for (let w = source; w < source + words; w++) to[target++] = from[w]!;
  }
}

/** Copies the records named by `order` behind one another. */
export function gatherRecords(records: Uint8Array, recordLength: number, order: Uint32Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(order.length * recordLength);
  if (recordLength % 2 === 0 && records.byteOffset % 2 === 0) {
    const words = recordLength / 2;
    const from = new Uint16Array(records.buffer, records.byteOffset, records.length >> 1);
    const to = new Uint16Array(out.buffer);
    for (let i = 0, target = 0; i < order.length; i++) {
      const source = order[i]! * words;
      for (let w = source; w < source + words; w++) to[target++] = from[w]!;
    }
  } else
    for (let i = 0; i < order.length; i++)
      out.set(records.subarray(order[i]! * recordLength, (order[i]! + 1) * recordLength), i * recordLength);
  return out;
}

/**
 * The order in which places lie by small square, in Z-order, and within one as they were: of several sorted runs one behind another, the
 * order of the whole.
 * @param x - places in the root cube; likewise `y`
 */
export function orderBySquare(x: Int32Array, y: Int32Array, scratch = new Scratch()): Uint32Array {
  const count = x.length;
  const shift = CODE_BITS - SQUARE_BITS;
  const squareOf = (i: number): number => SPREAD[x[i]! >> shift]! | (SPREAD[y[i]! >> shift]! << 1);
  const next = new Uint32Array(SQUARE_COUNT + 1);
  for (let i = 0; i < count; i++) next[squareOf(i) + 1]!++;
  for (let s = 0; s < SQUARE_COUNT; s++) next[s + 1]! += next[s]!;
  const order = scratch.uint32('order by square', count);
  for (let i = 0; i < count; i++) order[next[squareOf(i)]!++] = i;
  return order;
}

/** Where each small square begins in places that lie in the order of {@link orderBySquare}; the last is the end. */
export function squareStarts(x: Int32Array, y: Int32Array): number[] {
  const shift = CODE_BITS - SQUARE_BITS;
  const starts: number[] = [];
  let last = -1;
  for (let i = 0; i < x.length; i++) {
    const square = ((y[i]! >> shift) << SQUARE_BITS) | (x[i]! >> shift);
    if (square !== last) starts.push(i);
    last = square;
  }
  return [...starts, x.length];
}

/** A square of the plan that is built in one piece. */
export interface BuildSquare {
  /** Quadtree level of the square; its share of nodes above this level is put together with its neighbours'. */
  readonly level: number;
  /** First and one past the last of its squares of level 7, in Z-order. */
  readonly first: number;
  readonly end: number;
  readonly count: number;
}

/** Divides the plan into squares of at most `mostPoints` points, or of level 7 where points are denser still. */
export function buildSquares(counts: Float64Array | Uint32Array, mostPoints: number): BuildSquare[] {
  const squares: BuildSquare[] = [];
  const divide = (level: number, first: number, end: number): void => {
    let count = 0;
    for (let s = first; s < end; s++) count += counts[s]!;
    if (count === 0) return;
    if (count <= mostPoints || level === SQUARE_BITS) {
      squares.push({ level, first, end, count });
      return;
    }
    const quarter = (end - first) / 4;
    for (let q = 0; q < 4; q++) divide(level + 1, first + q * quarter, first + (q + 1) * quarter);
  };
  divide(0, 0, SQUARE_COUNT);
  return squares;
}

/** Counts of squares in Z-order as rows from south to north. */
export function squareRows(counts: Float64Array): Float64Array {
  const side = 1 << SQUARE_BITS;
  const rows = new Float64Array(counts.length);
  for (let row = 0; row < side; row++)
    for (let column = 0; column < side; column++)
      rows[row * side + column] = counts[SPREAD[column]! | (SPREAD[row]! << 1)]!;
  return rows;
}

/** The bits of a number with a gap behind each. */
const SPREAD = columnFrom(Uint16Array, { length: 1 << SQUARE_BITS }, (_, value) => {
  let out = 0;
  for (let bit = 0; bit < SQUARE_BITS; bit++) out |= ((value >> bit) & 1) << (2 * bit);
  return out;
});
