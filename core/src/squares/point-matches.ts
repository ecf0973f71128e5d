import type { Quantisation } from '../cloud/index.js';

/** Points by their integers: those of one file, in two jobs, are the same where all three are. */
export interface IntegerPoints {
  readonly count: number;
  readonly x: Int32Array;
  readonly y: Int32Array;
  readonly z: Int32Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
}

/**
 * Classes and flags of points, to be found by the points' places. Points at one place are told apart by their class alone: each is
 * given away once, the lowest class first, so that as many of each class come out at a place as went in.
 */
export class PointMatches {
  private readonly slots: Int32Array;
  private readonly x: Int32Array;
  private readonly y: Int32Array;
  private readonly z: Int32Array;
  private readonly marks: Uint16Array;
  /** The next point at the same place, −1 for none. */
  private readonly next: Int32Array;
  private count = 0;

  constructor(most: number) {
    // Open addressing, at most half full.
    this.slots = new Int32Array(2 ** Math.ceil(Math.log2(Math.max(4, most * 2)))).fill(-1);
    const column = (): Int32Array => new Int32Array(most);
    [this.x, this.y, this.z, this.next] = [column(), column(), column(), column()];
    this.marks = new Uint16Array(most);
  }

  add({ x, y, z, classification, flags }: IntegerPoints, i: number): void {
    const at = this.count++;
    [this.x[at], this.y[at], this.z[at]] = [x[i]!, y[i]!, z[i]!];
    const mark = (this.marks[at] = (classification[i]! << 8) | flags[i]!);
    const slot = this.slotOf(x[i]!, y[i]!, z[i]!);
    // In the order of their marks, whichever came first.
    let before = -1;
    let after = this.slots[slot]!;
    while (after >= 0 && this.marks[after]! <= mark) [before, after] = [after, this.next[after]!];
    this.next[at] = after;
    if (before < 0) this.slots[slot] = at;
    else this.next[before] = at;
  }

  /** Class and flags of a point that is at this place and was not given away yet: 256 times the one and the other; −1 where there is none. */
  take({ x, y, z }: IntegerPoints, i: number): number {
    const slot = this.slotOf(x[i]!, y[i]!, z[i]!);
    const found = this.slots[slot]!;
    if (found < 0) return -1;
    // The last at a place stays, as a stand-in for further copies and so that the slot is not taken for an empty one.
    if (this.next[found]! >= 0) this.slots[slot] = this.next[found]!;
    return this.marks[found]!;
  }

  private slotOf(x: number, y: number, z: number): number {
    let hash = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca6b) ^ Math.imul(z, 0xc2b2ae35);
    hash = Math.imul(hash ^ (hash >>> 15), 0x27d4eb2f);
    let slot = (hash ^ (hash >>> 13)) & (this.slots.length - 1);
    for (;;) {
      const held = this.slots[slot]!;
      if (held < 0 || (this.x[held] === x && this.y[held] === y && this.z[held] === z)) return slot;
      slot = (slot + 1) & (this.slots.length - 1);
    }
  }
}

/** Whether integers of two clouds mean the same places. */
export function sameIntegers(one: Quantisation, other: Quantisation): boolean {
  return [0, 1, 2].every((k) => one.scale[k] === other.scale[k] && one.offset[k] === other.offset[k]);
}
