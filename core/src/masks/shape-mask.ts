import { NO_PICTURE, QUARTERS } from './alike.js';
import { piecesOf, squaredDistances, type Pieces } from '../raster/index.js';

/** A stroke of the brush: what lies within its radius of the path becomes part of the mask, or ceases to be. In pixels of the mask. */
export interface PaintedStroke {
  readonly path: readonly (readonly [column: number, row: number])[];
  readonly radius: number;
  readonly adds: boolean;
}

/** How a mask is made even. All lengths in pixels, areas in pixels of it. */
export interface MaskShaping {
  /** Each pixel goes with most of those within this far of it, along columns and rows; 0 leaves it. */
  readonly soften: number;
  /** Holes of less are filled, and pieces of less dropped. */
  readonly smallestHole: number;
  readonly smallestPiece: number;
  /** Grown by so much, or shrunk where it is negative. */
  readonly grow: number;
  /** Places of which the mask keeps only what hangs together with one; undefined keeps all. */
  readonly heldBy?: readonly (readonly [column: number, row: number])[] | undefined;
  /** A ring that it stays within. */
  readonly within?: readonly (readonly [column: number, row: number])[] | undefined;
  /** By hand, one after another, last of all. */
  readonly painted: readonly PaintedStroke[];
}

/** Once it is known which pieces there are. */
interface MeetingEdges {
  readonly meetEdges?: () => void;
}

interface Size {
  readonly columns: number;
  readonly rows: number;
}

/** Pixels at an edge that show some of both sides: no picture is sharper, and a photograph's compression blurs colours further. */
const BLUR = 3;
/** Pixels about one at an edge that tell what lies to either side. */
const ABOUT = 4;

/**
 * A mask from how far each pixel's colour is. Pixels at an edge show a mixture of both sides: those nearer to what was picked than to what lies beyond belong to it.
 * @param far - quarters of colour difference, as `measureFar` has them
 */
export function maskFrom(
  far: Uint8Array,
  tolerance: number,
  size: Size,
  shaping: MaskShaping,
): Uint8Array<ArrayBuffer> {
  const most = Math.floor(tolerance * QUARTERS);
  const mask = new Uint8Array(far.length);
  for (let at = 0; at < far.length; at++) if (far[at]! <= most) mask[at] = 1;
  shapeMask(mask, size, { ...shaping, meetEdges: () => growOverBlur(mask, far, most, size) });
  return mask;
}

function growOverBlur(mask: Uint8Array, far: Uint8Array, most: number, { columns, rows }: Size): void {
  const beside = new Set<number>();
  const addBeside = (at: number): void => {
    const column = at % columns;
    if (column > 0 && mask[at - 1] === 0) beside.add(at - 1);
    if (column < columns - 1 && mask[at + 1] === 0) beside.add(at + 1);
    if (at >= columns && mask[at - columns] === 0) beside.add(at - columns);
    if (at < columns * (rows - 1) && mask[at + columns] === 0) beside.add(at + columns);
  };
  for (let at = mask.indexOf(1); at >= 0; at = mask.indexOf(1, at + 1)) {
    addBeside(at);
    // The rest of the run, of which only ends and what lies over and under can be beside it.
    for (; mask[at + 1] === 1; at++) {
      const next = at + 1;
      if (mask[next + 1] !== 1 || mask[next - columns] === 0 || mask[next + columns] === 0) addBeside(next);
    }
  }
  let front = [...beside];
  const side = 2 * ABOUT + 1;
  const [near, beyond] = [new Uint8Array(side * side), new Uint8Array(side * side)];
  /** What a pixel is to be under; told by those about it, each side by its middle. */
  const half = (at: number): number => {
    const [column, row] = [at % columns, Math.floor(at / columns)];
    let [nears, beyonds] = [0, 0];
    for (let r = Math.max(0, row - ABOUT); r <= Math.min(rows - 1, row + ABOUT); r++)
      for (let c = Math.max(0, column - ABOUT); c <= Math.min(columns - 1, column + ABOUT); c++) {
        const value = far[r * columns + c]!;
        if (value <= most) near[nears++] = value;
        else if (value !== NO_PICTURE) beyond[beyonds++] = value;
      }
    if (nears === 0 || beyonds === 0) return -1;
    // Beyond there are mixed pixels too; the upper quarter is of what lies there.
    const [inside, outside] = [near.subarray(0, nears).sort(), beyond.subarray(0, beyonds).sort()];
    return (inside[nears >> 1]! + outside[Math.floor(0.75 * beyonds)]!) / 2;
  };
  for (let step = 0; step < BLUR && front.length > 0; step++) {
    const taken = front.filter((at) => far[at] !== NO_PICTURE && far[at]! <= half(at));
    for (const at of taken) mask[at] = 1;
    beside.clear();
    for (const at of taken) addBeside(at);
    front = [...beside];
  }
}

/**
 * Makes a mask of single pixels even, in place: softened, cut to its outline, holes filled, pieces chosen, grown or shrunk, then what was painted by hand. A hole is
 * land that hangs together by sides and does not reach the rim; a piece hangs together by corners too.
 */
export function shapeMask(mask: Uint8Array, size: Size, shaping: MaskShaping & MeetingEdges): void {
  const { soften, smallestHole, smallestPiece, grow, heldBy, within, painted } = shaping;
  const radius = Math.round(soften);
  if (radius > 0) majority(mask, size, radius);
  if (within) clip(mask, size, within);
  fillHoles(mask, size, smallestHole);
  const pieces = piecesOf(size, mask, 1, true);
  const held = heldBy && piecesAt(pieces, size, heldBy, radius + 2);
  putRuns(mask, pieces, (piece) => {
    if (held) return held.has(piece) ? undefined : 0;
    return pieces.cells[piece]! < smallestPiece ? 0 : undefined;
  });
  if (shaping.meetEdges) {
    shaping.meetEdges();
    // Growing closes bays.
    fillHoles(mask, size, smallestHole);
  }
  if (grow !== 0) {
    const source = grow > 0 ? mask : mask.map((value) => 1 - value);
    const squared = squaredDistances(size, source);
    const most = grow * grow;
    for (let at = 0; at < mask.length; at++) if (squared[at]! <= most) mask[at] = grow > 0 ? 1 : 0;
  }
  if (within) clip(mask, size, within);
  for (const stroke of painted) paint(mask, size, stroke);
}

/**
 * Each pixel as most of a square about it, by sums that slide along rows and columns. Beyond the rim nothing is counted. Only as many rows of sums are kept as a square
 * is high: they stay in the processor's cache.
 */
function majority(mask: Uint8Array, { columns, rows }: Size, radius: number): void {
  const side = 2 * radius + 1;
  /** Sums along each of the rows that a square reaches over; a row takes the place of the one that leaves. */
  const kept = Array.from({ length: side }, () => new Uint16Array(columns));
  const sums = new Uint32Array(columns);
  const half = new Uint32Array(columns);
  const span = (at: number, size: number): number => Math.min(size - 1, at + radius) - Math.max(0, at - radius) + 1;
  let high = 0;
  for (let enters = 0; enters < rows + radius; enters++) {
    slide(mask, enters < rows ? enters * columns : undefined, radius, kept[enters % side]!, sums);
    const row = enters - radius;
    if (row < 0) continue;
    if (span(row, rows) !== high) {
      high = span(row, rows);
      for (let column = 0; column < columns; column++) half[column] = (high * span(column, columns)) >> 1;
    }
    takeMost(mask.subarray(row * columns, (row + 1) * columns), sums, half);
  }
}

/** Adds a row's sums to those of a square and takes off the row whose place it has; beyond the last row there is nothing to add. */
function slide(
  mask: Uint8Array,
  first: number | undefined,
  radius: number,
  kept: Uint16Array,
  sums: Uint32Array,
): void {
  const columns = kept.length;
  if (first === undefined) {
    for (let column = 0; column < columns; column++) sums[column]! -= kept[column]!;
    kept.fill(0);
    return;
  }
  let sum = 0;
  for (let column = -radius; column < columns; column++) {
    if (column + radius < columns) sum += mask[first + column + radius]!;
    if (column > radius) sum -= mask[first + column - radius - 1]!;
    if (column < 0) continue;
    sums[column]! += sum - kept[column]!;
    kept[column] = sum;
  }
}

function takeMost(row: Uint8Array, sums: Uint32Array, half: Uint32Array): void {
  for (let column = 0; column < row.length; column++) row[column] = sums[column]! > half[column]! ? 1 : 0;
}

function fillHoles(mask: Uint8Array, size: Size, smallest: number): void {
  if (smallest <= 0) return;
  const holes = piecesOf(size, mask, 0, false);
  putRuns(mask, holes, (piece) => (holes.isAtRim[piece] === 0 && holes.cells[piece]! < smallest ? 1 : undefined));
}

function putRuns(mask: Uint8Array, { from, to, piece }: Pieces, valueOf: (piece: number) => 0 | 1 | undefined): void {
  for (let run = 0; run < from.length; run++) {
    const value = valueOf(piece[run]!);
    if (value !== undefined) mask.fill(value, from[run]!, to[run]!);
  }
}

/** The pieces that places lie in, or within a few pixels of. */
function piecesAt(
  { from, to, piece }: Pieces,
  { columns, rows }: Size,
  places: readonly (readonly [number, number])[],
  near: number,
): Set<number> {
  const found = new Set<number>();
  for (const [c, r] of places) {
    const [column, row] = [Math.floor(c), Math.floor(r)];
    for (let y = Math.max(0, row - near); y <= Math.min(rows - 1, row + near); y++) {
      const [left, right] = [
        y * columns + Math.max(0, column - near),
        y * columns + Math.min(columns - 1, column + near),
      ];
      // The first run that ends behind the left of the square.
      let [low, high] = [0, from.length];
      while (low < high) {
        const middle = (low + high) >> 1;
        if (to[middle]! > left) high = middle;
        else low = middle + 1;
      }
      for (let run = low; run < from.length && from[run]! <= right; run++) found.add(piece[run]!);
    }
  }
  return found;
}

/** Empties what lies outside a ring; a pixel lies where its middle does. */
function clip(mask: Uint8Array, { columns, rows }: Size, ring: readonly (readonly [number, number])[]): void {
  for (let row = 0; row < rows; row++) {
    const y = row + 0.5;
    const crossings: number[] = [];
    ring.forEach(([x0, y0], k) => {
      const [x1, y1] = ring[(k + 1) % ring.length]!;
      if (y0 <= y !== y1 <= y) crossings.push(x0 + ((y - y0) / (y1 - y0)) * (x1 - x0));
    });
    crossings.sort((a, b) => a - b);
    let clear = row * columns;
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const left = Math.max(0, Math.min(columns, Math.ceil(crossings[k]! - 0.5)));
      const right = Math.max(0, Math.min(columns, Math.ceil(crossings[k + 1]! - 0.5)));
      if (right <= left) continue;
      mask.fill(0, clear, row * columns + left);
      clear = row * columns + right;
    }
    mask.fill(0, clear, (row + 1) * columns);
  }
}

function paint(mask: Uint8Array, { columns, rows }: Size, { path, radius, adds }: PaintedStroke): void {
  path.forEach((b, k) => {
    const a = path[Math.max(0, k - 1)]!;
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const length = dx * dx + dy * dy;
    const top = Math.max(0, Math.floor(Math.min(a[1], b[1]) - radius));
    const bottom = Math.min(rows - 1, Math.ceil(Math.max(a[1], b[1]) + radius));
    const left = Math.max(0, Math.floor(Math.min(a[0], b[0]) - radius));
    const right = Math.min(columns - 1, Math.ceil(Math.max(a[0], b[0]) + radius));
    for (let row = top; row <= bottom; row++)
      for (let column = left; column <= right; column++) {
        const [x, y] = [column + 0.5 - a[0], row + 0.5 - a[1]];
        const share = length === 0 ? 0 : Math.max(0, Math.min(1, (x * dx + y * dy) / length));
        if (Math.hypot(x - share * dx, y - share * dy) <= radius) mask[row * columns + column] = adds ? 1 : 0;
      }
  });
}
