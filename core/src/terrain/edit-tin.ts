import { incircle } from 'robust-predicates';
import { Outline } from '../selection/index.js';
import { PamperoError } from '../task/index.js';
import { nextSide, previousSide } from './half-edges.js';
import { orientation } from './orientation.js';
import type { Tin } from './tin.js';

/** What a surveyor does to a surface by hand, told by places in full coordinates so that it can be done again on a surface built anew. */
export type SurfaceEdit =
  /** The point nearest the place goes; its surroundings close over it. At the rim its triangles go with it. */
  | { readonly kind: 'take-out'; readonly place: readonly [number, number] }
  /** The side nearest the place joins the other two corners instead. */
  | { readonly kind: 'swap'; readonly place: readonly [number, number] }
  /** The triangle at the place goes, or all whose middle lies in the outline. */
  | { readonly kind: 'drop'; readonly place: readonly [number, number] }
  | { readonly kind: 'drop-within'; readonly outline: readonly (readonly [number, number])[] }
  | { readonly kind: 'add'; readonly place: readonly [number, number]; readonly elevation: number };

/** How near a place a point has to lie to be meant by it, by the length of the sides there. */
const NEAR = 0.5;

/**
 * Edits one after the other; each changes the triangles about its place alone, Delaunay where nothing is held (Lawson 1977 for
 * points that are added; ears by their circumcircle, Devillers 1999, for points that are taken out).
 * @returns the surface, and of each edit why it could not be done, or undefined
 */
export function editTin(tin: Tin, edits: readonly SurfaceEdit[]): { tin: Tin; refused: (PamperoError | undefined)[] } {
  const editor = new Editor(tin, edits.filter(({ kind }) => kind === 'add').length);
  const refused = edits.map((edit) => {
    try {
      editor.apply(edit);
      return undefined;
    } catch (error) {
      if (error instanceof PamperoError) return error;
      throw error;
    }
  });
  return { tin: editor.finish(), refused };
}

class Editor {
  private readonly e: Float64Array;
  private readonly n: Float64Array;
  private readonly z: Float64Array;
  private readonly facets: Uint32Array;
  private readonly twins: Int32Array;
  private readonly held: Uint8Array;
  private readonly isDead: Uint8Array;
  private corners: number;
  private count: number;

  constructor(
    private readonly tin: Tin,
    adds: number,
  ) {
    const extended = <T extends Float64Array | Uint32Array | Int32Array | Uint8Array>(into: T, from: T): T => {
      into.set(from as never);
      return into;
    };
    this.corners = tin.easting.length;
    this.count = tin.facets.length / 3;
    // A point that is added makes two triangles more.
    const sides = tin.facets.length + 6 * adds;
    this.e = extended(new Float64Array(this.corners + adds), tin.easting);
    this.n = extended(new Float64Array(this.corners + adds), tin.northing);
    this.z = extended(new Float64Array(this.corners + adds), tin.elevation);
    this.facets = extended(new Uint32Array(sides), tin.facets);
    this.twins = extended(new Int32Array(sides).fill(-1), tin.twins);
    this.held = tin.held ? extended(new Uint8Array(sides), tin.held) : new Uint8Array(sides);
    this.isDead = new Uint8Array(sides / 3);
  }

  apply(edit: SurfaceEdit): void {
    if (edit.kind === 'drop-within') {
      this.dropWithin(edit.outline);
      return;
    }
    const [x, y] = [edit.place[0] - this.tin.origin[0], edit.place[1] - this.tin.origin[1]];
    switch (edit.kind) {
      case 'take-out':
        this.takeOut(x, y);
        break;
      case 'swap':
        this.swap(this.sideNear(x, y));
        break;
      case 'drop':
        this.drop(this.facetAt(x, y));
        break;
      case 'add':
        this.add(x, y, edit.elevation);
    }
  }

  /** Without the triangles and points that are gone. */
  finish(): Tin {
    const newFacet = new Int32Array(this.count).fill(-1);
    let kept = 0;
    for (let f = 0; f < this.count; f++) if (this.isDead[f] === 0) newFacet[f] = kept++;
    // Points whose triangles are all gone go with them.
    const isUsed = new Uint8Array(this.corners);
    for (let f = 0; f < this.count; f++)
      if (this.isDead[f] === 0) for (let k = 0; k < 3; k++) isUsed[this.facets[3 * f + k]!] = 1;
    const newCorner = new Int32Array(this.corners).fill(-1);
    let points = 0;
    for (let i = 0; i < this.corners; i++) if (isUsed[i] === 1) newCorner[i] = points++;
    const facets = new Uint32Array(3 * kept);
    const twins = new Int32Array(3 * kept);
    const held = new Uint8Array(3 * kept);
    for (let f = 0; f < this.count; f++) {
      const to = newFacet[f]!;
      if (to < 0) continue;
      for (let k = 0; k < 3; k++) {
        facets[3 * to + k] = newCorner[this.facets[3 * f + k]!]!;
        held[3 * to + k] = this.held[3 * f + k]!;
        const twin = this.twins[3 * f + k]!;
        const beyond = twin < 0 ? -1 : newFacet[Math.floor(twin / 3)]!;
        twins[3 * to + k] = beyond < 0 ? -1 : 3 * beyond + (twin % 3);
      }
    }
    const of = (column: Float64Array): Float64Array =>
      column.subarray(0, this.corners).filter((_, i) => newCorner[i]! >= 0);
    return {
      origin: this.tin.origin,
      easting: of(this.e),
      northing: of(this.n),
      elevation: of(this.z),
      facets,
      twins,
      ...(this.tin.held && { held }),
    };
  }

  private turn(a: number, b: number, c: number): number {
    const { e, n } = this;
    return orientation(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!);
  }

  private link(h: number, twin: number): void {
    this.twins[h] = twin;
    if (twin >= 0) this.twins[twin] = h;
  }

  private facetAt(x: number, y: number): number {
    const { e, n, facets } = this;
    for (let f = 0; f < this.count; f++) {
      if (this.isDead[f] === 1) continue;
      const [a, b, c] = [facets[3 * f]!, facets[3 * f + 1]!, facets[3 * f + 2]!];
      if (
        orientation(e[a]!, n[a]!, e[b]!, n[b]!, x, y) >= 0 &&
        orientation(e[b]!, n[b]!, e[c]!, n[c]!, x, y) >= 0 &&
        orientation(e[c]!, n[c]!, e[a]!, n[a]!, x, y) >= 0
      )
        return f;
    }
    throw new PamperoError('beside-surface', {
      what: 'There is no triangle at this place.',
      fix: 'Click within the surface.',
    });
  }

  private sideNear(x: number, y: number): number {
    const f = this.facetAt(x, y);
    let [best, least] = [3 * f, Infinity];
    for (let h = 3 * f; h < 3 * f + 3; h++) {
      const [a, b] = [this.facets[h]!, this.facets[nextSide(h)]!];
      const [de, dn] = [this.e[b]! - this.e[a]!, this.n[b]! - this.n[a]!];
      const off = Math.abs((x - this.e[a]!) * dn - (y - this.n[a]!) * de) / Math.hypot(de, dn);
      if (off < least) [best, least] = [h, off];
    }
    return best;
  }

  private swap(h: number): void {
    const t = this.twins[h]!;
    if (t < 0)
      throw new PamperoError('rim-side', {
        what: 'This side is the rim: nothing lies beyond it to join.',
        fix: 'Choose another side.',
      });
    if (this.held[h] === 1)
      throw new PamperoError('held-side', { what: 'This side lies on a breakline.', fix: 'Change the line instead.' });
    const { facets } = this;
    const [a, b, c, d] = [facets[h]!, facets[nextSide(h)]!, facets[previousSide(h)]!, facets[previousSide(t)]!];
    if (!(this.turn(a, d, c) > 0 && this.turn(d, b, c) > 0))
      throw new PamperoError('side-not-swapped', {
        what: 'The two triangles make a shape that is hollow there: the other diagonal would lie outside it.',
        fix: 'Take out a point, or choose another side.',
      });
    this.turnSide(h, t, a, b, c, d);
  }

  /** The triangles a-b-c and b-a-d become a-d-c and d-b-c. */
  private turnSide(h: number, t: number, a: number, b: number, c: number, d: number): void {
    const [f, g] = [3 * Math.floor(h / 3), 3 * Math.floor(t / 3)];
    const beyond = [nextSide(t), previousSide(h), previousSide(t), nextSide(h)].map((side) => ({
      twin: this.twins[side]!,
      held: this.held[side]!,
    }));
    this.put(f, [a, d, c], [beyond[0]!, undefined, beyond[1]!]);
    this.put(g, [d, b, c], [beyond[2]!, beyond[3]!, undefined]);
    this.link(f + 1, g + 2);
  }

  /** A triangle with what lies beyond its sides; undefined where that is linked later. */
  private put(
    at: number,
    corners: readonly [number, number, number],
    beyond: readonly ({ twin: number; held: number } | undefined)[],
  ): void {
    for (let k = 0; k < 3; k++) {
      this.facets[at + k] = corners[k]!;
      const side = beyond[k];
      this.held[at + k] = side?.held ?? 0;
      if (side) this.link(at + k, side.twin);
    }
  }

  private drop(f: number): void {
    this.isDead[f] = 1;
    for (let h = 3 * f; h < 3 * f + 3; h++) {
      const twin = this.twins[h]!;
      if (twin >= 0) this.twins[twin] = -1;
      this.twins[h] = -1;
    }
  }

  private dropWithin(corners: readonly (readonly [number, number])[]): void {
    const outline = new Outline(corners);
    const [oe, on] = this.tin.origin;
    let dropped = 0;
    for (let f = 0; f < this.count; f++) {
      if (this.isDead[f] === 1) continue;
      const middle = (of: Float64Array): number =>
        (of[this.facets[3 * f]!]! + of[this.facets[3 * f + 1]!]! + of[this.facets[3 * f + 2]!]!) / 3;
      if (!outline.contains(middle(this.e) + oe, middle(this.n) + on)) continue;
      this.drop(f);
      dropped++;
    }
    if (dropped === 0)
      throw new PamperoError('beside-surface', {
        what: 'No triangle lies within the outline.',
        fix: 'Draw it over the surface.',
      });
  }

  private takeOut(x: number, y: number): void {
    const f = this.facetAt(x, y);
    // The corner of the triangle there that is nearest.
    let [start, least] = [3 * f, Infinity];
    for (let h = 3 * f; h < 3 * f + 3; h++) {
      const off = Math.hypot(this.e[this.facets[h]!]! - x, this.n[this.facets[h]!]! - y);
      if (off < least) [start, least] = [h, off];
    }
    const [a, b] = [this.facets[nextSide(start)]!, this.facets[previousSide(start)]!];
    const v = this.facets[start]!;
    const side = Math.min(
      Math.hypot(this.e[a]! - this.e[v]!, this.n[a]! - this.n[v]!),
      Math.hypot(this.e[b]! - this.e[v]!, this.n[b]! - this.n[v]!),
    );
    if (least > NEAR * side)
      throw new PamperoError('no-point-near', {
        what: 'No point of the surface lies near this place.',
        fix: 'Click on the corner of a triangle.',
      });
    const star = [start];
    let isRim = false;
    for (let h = this.twins[previousSide(start)]!; h !== start; h = this.twins[previousSide(h)]!) {
      if (h < 0) {
        isRim = true;
        break;
      }
      star.push(h);
    }
    if (isRim)
      for (let twin = this.twins[start]!; twin >= 0; twin = this.twins[nextSide(twin)]!) star.unshift(nextSide(twin));
    if (star.some((h) => this.held[h] === 1 || this.held[previousSide(h)] === 1))
      throw new PamperoError('held-side', {
        what: 'This point lies on a breakline.',
        fix: 'Change the line instead.',
      });
    if (isRim) {
      for (const h of star) this.drop(Math.floor(h / 3));
      return;
    }
    const ring = star.map((h) => ({
      corner: this.facets[nextSide(h)]!,
      twin: this.twins[nextSide(h)]!,
      held: this.held[nextSide(h)]!,
    }));
    const free = star.map((h) => 3 * Math.floor(h / 3));
    while (ring.length > 3) {
      const k = this.earOf(ring.map(({ corner }) => corner));
      const [before, here] = [ring[(k + ring.length - 1) % ring.length]!, ring[k]!];
      const after = ring[(k + 1) % ring.length]!;
      const at = free.pop()!;
      this.put(at, [before.corner, here.corner, after.corner], [before, here, undefined]);
      // The ring now goes straight from the one before to the one after.
      ring[(k + ring.length - 1) % ring.length] = { corner: before.corner, twin: at + 2, held: 0 };
      ring.splice(k, 1);
    }
    const [p, q, r] = ring as [(typeof ring)[0], (typeof ring)[0], (typeof ring)[0]];
    this.put(free.pop()!, [p.corner, q.corner, r.corner], [p, q, r]);
    for (const at of free) this.isDead[at / 3] = 1;
  }

  /** The corner of a ring whose triangle with its neighbours is Delaunay, or at least lies within the ring. */
  private earOf(ring: readonly number[]): number {
    const { e, n } = this;
    let fallback = -1;
    for (let k = 0; k < ring.length; k++) {
      const a = ring[(k + ring.length - 1) % ring.length]!;
      const b = ring[k]!;
      const c = ring[(k + 1) % ring.length]!;
      if (!(this.turn(a, b, c) > 0)) continue;
      const others = ring.filter((v) => v !== a && v !== b && v !== c);
      if (others.some((v) => this.turn(a, b, v) >= 0 && this.turn(b, c, v) >= 0 && this.turn(c, a, v) >= 0)) continue;
      fallback = k;
      if (!others.some((v) => incircle(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!, e[v]!, n[v]!) > 0)) return k;
    }
    if (fallback < 0)
      throw new PamperoError('surface-tangled', {
        what: 'What lies about this point cannot be closed.',
        fix: 'Drop the triangles there instead.',
      });
    return fallback;
  }

  private add(x: number, y: number, z: number): void {
    const f = this.facetAt(x, y);
    const at = 3 * f;
    const [a, b, c] = [this.facets[at]!, this.facets[at + 1]!, this.facets[at + 2]!];
    for (const v of [a, b, c])
      if (Math.hypot(this.e[v]! - x, this.n[v]! - y) < 1e-4)
        throw new PamperoError('point-there', {
          what: 'There is a point of the surface at this very place.',
          fix: 'Take it out first.',
        });
    const p = this.corners++;
    this.e[p] = x;
    this.n[p] = y;
    this.z[p] = z;
    const beyond = [at, at + 1, at + 2].map((h) => ({ twin: this.twins[h]!, held: this.held[h]! }));
    const [second, third] = [3 * this.count, 3 * this.count + 3];
    this.count += 2;
    this.put(at, [a, b, p], [beyond[0]!, undefined, undefined]);
    this.put(second, [b, c, p], [beyond[1]!, undefined, undefined]);
    this.put(third, [c, a, p], [beyond[2]!, undefined, undefined]);
    this.link(at + 1, second + 2);
    this.link(second + 1, third + 2);
    this.link(third + 1, at + 2);
    this.settle([at, second, third]);
  }

  /** Turns sides over against the new point until all are Delaunay; a triangle without area gives its side away whatever it is. */
  private settle(sides: number[]): void {
    const { e, n, facets } = this;
    while (sides.length > 0) {
      const h = sides.pop()!;
      const t = this.twins[h]!;
      const [a, b, c] = [facets[h]!, facets[nextSide(h)]!, facets[previousSide(h)]!];
      const isFlat = this.turn(a, b, c) <= 0;
      if (t < 0) {
        if (isFlat) this.drop(Math.floor(h / 3));
        continue;
      }
      if (this.held[h] === 1 && !isFlat) continue;
      const d = facets[previousSide(t)]!;
      const isIn = incircle(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!, e[d]!, n[d]!) > 0;
      if (!(isFlat || isIn) || !(this.turn(a, d, c) > 0 && this.turn(d, b, c) > 0)) continue;
      const wasHeld = this.held[h]!;
      this.turnSide(h, t, a, b, c, d);
      const [f, g] = [3 * Math.floor(h / 3), 3 * Math.floor(t / 3)];
      // A line that the point lies on goes on to either side of it.
      if (isFlat && wasHeld === 1) {
        for (const side of [f + 2, g + 1]) {
          this.held[side] = 1;
          const twin = this.twins[side]!;
          if (twin >= 0) this.held[twin] = 1;
        }
      }
      sides.push(f, g);
    }
  }
}
