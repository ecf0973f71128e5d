import { connectedCells, eachNeighbour, type RasterFrame } from '../raster/index.js';
import type { GroundSums } from './ground-heights.js';

export interface BridgeOptions {
  /** Widest deck, job units. */
  readonly widest: number;
  /** A deck lies at least so far over what is beside it, job units. */
  readonly leastDrop: number;
  /** How many job units a metre has. */
  readonly metre: number;
}

const POINTS_A_CELL = 5;
/** Metres: cells no finer, and so far off the deck its points lie. */
const FINEST = 0.5;
const THICK = 0.25;

/** Classes by what they say of a deck: land and water (a deck found before is looked at anew), what it is taken for, what hides it. */
export const DECK_SEES = {
  land: [2, 8, 9, 17],
  standing: [0, 1, 6],
  covering: Array.from({ length: 256 }, (_, code) => code).filter(
    (code) => ![0, 1, 2, 6, 7, 8, 9, 12, 17, 18].includes(code),
  ),
} as const satisfies Record<string, readonly number[]>;
/** Classes whose points become deck where one is found. */
export const DECK_MISTAKEN_FOR: readonly number[] = [0, 1, 2, 6];

/** The cell that decks are looked for in, and how far off a deck its points lie, job units. */
export function deckScale(spacing: number, metre: number): { readonly cell: number; readonly thickness: number } {
  return {
    cell: Number(Math.max(FINEST * metre, spacing * Math.sqrt(POINTS_A_CELL)).toPrecision(2)),
    thickness: THICK * metre,
  };
}

/** The upper surface that decks are looked for in. */
export interface UpperSurface {
  /** Of each cell; NaN where nothing came back, infinite where only plants and the like did: what lies under these is not known. */
  readonly height: Float64Array;
  /** Cells in which ground was found. */
  readonly isLand: Uint8Array;
}

/**
 * Heights of cells: of land and water where most points are that, else of what stands there.
 * @param standing - points of the classes that a deck may have been given
 * @param covering - points of classes that hide what lies beneath them: plants, wires, vehicles
 */
export function upperSurface(
  { land, standing, covering }: Readonly<Record<'land' | 'standing' | 'covering', GroundSums>>,
  { scale, offset }: { readonly scale: number; readonly offset: number },
): UpperSurface {
  const height = new Float64Array(land.count.length).fill(NaN);
  const isLand = new Uint8Array(height.length);
  for (let at = 0; at < height.length; at++) {
    const sums = land.count[at]! >= standing.count[at]! ? land : standing;
    if (sums.count[at]! > 0) height[at] = (sums.sum[at]! / sums.count[at]!) * scale + offset;
    else if (covering.count[at]! > 0) height[at] = Infinity;
    if (sums === land && sums.count[at]! > 0) isLand[at] = 1;
  }
  return { height, isLand };
}

/** Where bridge decks are and how high; NaN where there is none. */
export interface DeckLevels extends RasterFrame {
  readonly level: Float64Array;
  /** Decks found. */
  readonly decks: number;
}

/** Directions in which profiles are looked along: every so many degrees. */
const DIRECTIONS = 12;
/** A road rises by no more than this; what rises more is an edge. */
const STEEPEST = 0.25;
/** A mean of a cell is this sure, metres. */
const UNSURE = 0.06;
/** A side of a deck falls at least so steeply: batters of banks, which are let go, hardly exceed 1 in 1.5. */
const SIDE = 1.2;
/** Cells without any return that are taken for water or shade beneath, beside a deck. */
const VOID = 3;
/** So much of a profile may be covered by something that stands on it, metres. */
const COVERED = 6;
/** A deck is even to this, metres. */
const EVEN = 0.05;
/** Of a deck's cells so many must have the same lower land beside them on either side, not just a void. */
const SEEN = 0.3;
/** Parts of a deck's length at either end in which it must go over into land, and in the middle in which it must not. */
const ENDS = 0.3;
const MIDDLE = [0.35, 0.65] as const;
/** Of its cells so many at most touch land: a deck does at its ends alone, a thin ledge all along. */
const TOUCHING = 0.5;
/** Of the contacts with land, so many may lie in the middle. */
const CONTACTS = 0.12;

/**
 * Bridge decks: surfaces that fall away on both sides and go over into land without a step at both ends. Profiles are laid through
 * each cell in several directions; one in which the surface falls off abruptly on either side within a deck's width marks the cell,
 * marked cells that go over into each other make a deck, and it counts where its contacts with land are at its two ends. Buildings
 * have none, piers one, banks slope. After Sithole and Vosselman 2006, ISPRS Journal of Photogrammetry and Remote Sensing 61(1),
 * 33-46 ("Bridge detection in airborne laser scanner data"). A causeway between walls looks the same from above.
 * @param height - of the upper surface of each cell, whether it was taken for ground or not; NaN where nothing came back
 */
export function bridgeDecks(
  { columns, rows, cell, east, north }: RasterFrame,
  { height, isLand }: UpperSurface,
  { widest, leastDrop, metre }: BridgeOptions,
): DeckLevels {
  const cells = columns * rows;
  const level = new Float64Array(cells).fill(NaN);
  const smooth = (steps: number): number => STEEPEST * steps * cell + UNSURE * metre;
  const drop = Math.max(leastDrop, 2 * SIDE * cell);
  const reach = Math.ceil(widest / cell);
  const state = new Uint8Array(cells); // 1: falls off both ways; 2: and the same lower land was seen on either side
  const isNear = nearEdges();
  for (let at = 0; at < cells; at++)
    if (isNear[at] === 1 && Number.isFinite(height[at]!))
      for (let d = 0; d < DIRECTIONS && state[at]! < 2; d++) {
        const angle = (Math.PI * d) / DIRECTIONS;
        const one = fallsOff(at, Math.cos(angle), Math.sin(angle), reach);
        if (one === undefined) continue;
        const other = fallsOff(at, -Math.cos(angle), -Math.sin(angle), reach - one.steps);
        if (other === undefined) continue;
        // The same land or water goes on beneath it: a ledge on a hillside has another level on either side.
        const leastOver = height[at]! - Math.max(one.low, other.low);
        state[at] = Math.max(state[at]!, Math.abs(one.low - other.low) <= leastOver ? 2 : 1);
      }
  let decks = 0;
  const goesOver = (from: number, to: number): boolean => Math.abs(height[to]! - height[from]!) <= smooth(1.5);
  for (const deck of connectedCells({ columns, rows }, (at) => state[at]! > 0, goesOver)) {
    if (!isBridge(deck)) continue;
    decks++;
    for (const at of deck) level[at] = height[at]!;
    // Its rim, where cells hold a part of the deck and a part of what lies beside it.
    for (const at of deck)
      around(at, (k) => {
        if (Number.isNaN(level[k]!) && !goesOver(at, k)) level[k] = height[at]!;
      });
  }
  return { east, north, cell, columns, rows, level, decks };

  /** Cells with an edge within reach; even land has none, and need not be looked at. */
  function nearEdges(): Uint8Array {
    // Edges counted over all cells to the south-west, for sums over squares.
    const sums = new Uint32Array((columns + 1) * (rows + 1));
    for (let row = 0; row < rows; row++)
      for (let column = 0, inRow = 0; column < columns; column++) {
        if (isEdge(column, row)) inRow++;
        sums[(row + 1) * (columns + 1) + column + 1] = sums[row * (columns + 1) + column + 1]! + inRow;
      }
    const out = new Uint8Array(cells);
    for (let row = 0; row < rows; row++)
      for (let column = 0; column < columns; column++) {
        const [west, east_] = [Math.max(0, column - reach), Math.min(columns, column + reach + 1)];
        const [south, north_] = [Math.max(0, row - reach), Math.min(rows, row + reach + 1)];
        const at = (c: number, r: number): number => sums[r * (columns + 1) + c]!;
        if (at(east_, north_) - at(west, north_) - at(east_, south) + at(west, south) > 0)
          out[row * columns + column] = 1;
      }
    return out;
  }

  function isEdge(column: number, row: number): boolean {
    const own = height[row * columns + column]!;
    if (!Number.isFinite(own)) return false;
    for (let r = Math.max(0, row - 2); r <= Math.min(rows - 1, row + 2); r++)
      for (let c = Math.max(0, column - 2); c <= Math.min(columns - 1, column + 2); c++) {
        const there = height[r * columns + c]!;
        if (Number.isNaN(there) || own - there >= drop) return true;
      }
    return false;
  }

  /** Steps to the edge in one direction, and how high it is beyond, NaN where nothing lower was seen; undefined where the surface goes on, or ends by rising. */
  function fallsOff(
    from: number,
    dx: number,
    dy: number,
    most: number,
  ): { readonly steps: number; readonly low: number } | undefined {
    const own = height[from]!;
    const column = from % columns;
    const row = (from - column) / columns;
    let last = own;
    let lastStep = 0;
    let empty = 0;
    for (let step = 1; step <= most; step++) {
      const [c, r] = [Math.round(column + dx * step), Math.round(row + dy * step)];
      if (c < 0 || r < 0 || c >= columns || r >= rows) return undefined;
      const here = height[r * columns + c]!;
      if (Number.isNaN(here)) {
        if (++empty >= VOID) return { steps: step - VOID + 1, low: lowerBeyond(step) };
        continue;
      }
      empty = 0;
      if (here < last - smooth(step - lastStep)) {
        // An edge: a cell may hold both levels, the next one tells.
        for (let k = step; k <= step + 1; k++) {
          const [c1, r1] = [Math.round(column + dx * k), Math.round(row + dy * k)];
          if (c1 < 0 || r1 < 0 || c1 >= columns || r1 >= rows) break;
          if (last - height[r1 * columns + c1]! >= drop) return { steps: step, low: height[r1 * columns + c1]! };
        }
        if (last - here > smooth(step - lastStep) + 0.3 * metre) return undefined;
      } else if (here > last + smooth(step - lastStep)) {
        // A lorry on it, a tree over its edge: what lies beneath is told by what lies beyond.
        if ((step - lastStep) * cell > COVERED * metre) return undefined;
        continue;
      }
      last = here;
      lastStep = step;
    }
    return undefined;

    function lowerBeyond(step: number): number {
      for (let k = step; k <= step + reach; k++) {
        const [c, r] = [Math.round(column + dx * k), Math.round(row + dy * k)];
        if (c < 0 || r < 0 || c >= columns || r >= rows) return NaN;
        const there = height[r * columns + c]!;
        if (!Number.isNaN(there)) return last - there >= leastDrop ? there : NaN;
      }
      return NaN;
    }
  }

  function isBridge(deck: readonly number[]): boolean {
    const count = deck.length;
    if (deck.filter((at) => state[at] === 2).length < SEEN * count) return false;
    if (roughness(deck) > EVEN * metre) return false;
    // Contacts: land beyond a rim cell that goes on without a step.
    const contacts: number[] = [];
    for (const at of deck) {
      let touches = false;
      around(at, (k) => {
        if (state[k] === 0 && isLand[k] === 1 && goesOver(at, k)) touches = true;
      });
      if (touches) contacts.push(at);
    }
    if (contacts.length < 2 || contacts.length > TOUCHING * count) return false;
    const [[ax, ay], [bx, by]] = ends(contacts);
    const length = Math.hypot(bx - ax, by - ay);
    if (length * cell < 3 * metre) return false;
    const along = (at: number): number => {
      const [x, y] = placeOf(at);
      return ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length ** 2;
    };
    // Nothing of it reaches far beyond its contacts, as a pier would; and along its middle it touches no land.
    const beyond = deck.filter((at) => along(at) < -ENDS || along(at) > 1 + ENDS).length;
    const middle = contacts.filter((at) => along(at) > MIDDLE[0] && along(at) < MIDDLE[1]).length;
    const span = deck.filter((at) => along(at) > MIDDLE[0] && along(at) < MIDDLE[1]).length;
    return beyond < 0.1 * count && middle <= CONTACTS * contacts.length && span * cell * cell >= metre * metre;
  }

  /** The middles of its two ends: contacts in two heaps, begun with those furthest apart. */
  function ends(contacts: readonly number[]): readonly [Place, Place] {
    const places = contacts.map(placeOf);
    const apart = ([x, y]: Place, [u, v]: Place): number => Math.hypot(x - u, y - v);
    const furthest = (from: Place): Place => places.reduce((a, b) => (apart(b, from) > apart(a, from) ? b : a));
    let one = furthest(places[0]!);
    let other = furthest(one);
    for (let turn = 0; turn < 8; turn++) {
      const isOne = (at: Place): boolean => apart(at, one) <= apart(at, other);
      [one, other] = [middleOf(places.filter(isOne)) ?? one, middleOf(places.filter((at) => !isOne(at))) ?? other];
    }
    return [one, other];
  }

  function placeOf(at: number): Place {
    return [at % columns, Math.floor(at / columns)];
  }

  /** How far cells lie off the mean of those about them, the middle one of all; crowns of trees are ragged, decks are not. */
  function roughness(deck: readonly number[]): number {
    const own = new Set(deck);
    const off: number[] = [];
    for (const at of deck) {
      let [sum, count] = [0, 0];
      around(at, (k) => {
        if (!own.has(k)) return;
        sum += height[k]!;
        count++;
      });
      if (count >= 5) off.push(Math.abs(sum / count - height[at]!));
    }
    off.sort((a, b) => a - b);
    return off.length === 0 ? Infinity : off[off.length >> 1]!;
  }

  function around(at: number, visit: (k: number) => void): void {
    eachNeighbour({ columns, rows }, at, visit);
  }
}

type Place = readonly [number, number];

function middleOf(places: readonly Place[]): Place | undefined {
  if (places.length === 0) return undefined;
  const sum = places.reduce(([x, y], [u, v]) => [x + u, y + v], [0, 0] as Place);
  return [sum[0] / places.length, sum[1] / places.length];
}
