import { incircle } from 'robust-predicates';
import { nextSide, previousSide } from './half-edges.js';
import { orientation } from './orientation.js';

/** Triangles as `delaunator` gives them: clockwise with northing up, half-edge 3f + k from corner k to the next. */
export interface Mesh {
  readonly triangles: Uint32Array;
  readonly halfedges: Int32Array;
}

/**
 * Makes edges sides of triangles. The triangles that an edge crosses are taken out and the two polygons that are left along it
 * filled again, each by the corner whose circle over the base holds no other (Anglada 1997, "An improved incremental algorithm
 * for constructing restricted Delaunay triangulations", Computers & Graphics 21(2), 215-223). An edge that runs through a
 * point becomes two. Predicates are exact.
 */
export class Constrainer {
  private readonly incident: Int32Array;
  /** 1 for half-edges that are held. */
  readonly isFixed: Uint8Array;

  /**
   * @param mesh - changed in place
   * @param e - coordinates of the corners; likewise `n`
   */
  constructor(
    private readonly mesh: Mesh,
    private readonly e: Float64Array,
    private readonly n: Float64Array,
  ) {
    this.incident = new Int32Array(e.length).fill(-1);
    this.isFixed = new Uint8Array(mesh.triangles.length);
    for (let h = 0; h < mesh.triangles.length; h++) this.incident[mesh.triangles[h]!] = h;
  }

  /** Whether the edge is now a side, or several in line; false where another edge is in its way. */
  hold(from: number, to: number): boolean {
    let a = from;
    // A piece at a time: from one point on the edge to the next.
    while (a !== to) {
      const reached = this.holdPiece(a, to);
      if (reached < 0) return false;
      a = reached;
    }
    return true;
  }

  private turn(a: number, b: number, c: number): number {
    const { e, n } = this;
    return orientation(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!);
  }

  /** Holds the edge as far as the first point on it, and gives that point; -1 where it cannot. */
  private holdPiece(a: number, b: number): number {
    const { triangles, halfedges } = this.mesh;
    if (this.incident[a]! < 0 || this.incident[b]! < 0) return -1;
    let start = -1;
    for (const h of this.around(a)) {
      const x = triangles[nextSide(h)]!;
      const y = triangles[previousSide(h)]!;
      for (const [side, v] of [
        [h, x],
        [previousSide(h), y],
      ] as const) {
        if (v !== b && !(this.turn(a, b, v) === 0 && this.isAhead(a, b, v))) continue;
        this.fix(side);
        return v;
      }
      if (this.turn(a, x, b) < 0 && this.turn(a, y, b) > 0) {
        start = h;
        break;
      }
    }
    if (start < 0) return -1;
    // Through the triangles from side to side, corners to the left and to the right of the way.
    const left = [triangles[nextSide(start)]!];
    const right = [triangles[previousSide(start)]!];
    const crossed = [Math.floor(start / 3)];
    const cut = new Set<number>();
    let side = nextSide(start);
    let end = -1;
    while (end < 0) {
      if (this.isFixed[side] === 1) return -1;
      const twin = halfedges[side]!;
      if (twin < 0) return -1;
      cut.add(side).add(twin);
      crossed.push(Math.floor(twin / 3));
      const w = triangles[previousSide(twin)]!;
      const turned = w === b ? 0 : this.turn(a, b, w);
      if (turned === 0) end = w;
      else if (turned > 0) {
        left.push(w);
        // The side that goes on lies between w and the corner to the right.
        side = this.sideBetween(twin, w, right.at(-1)!);
      } else {
        right.push(w);
        side = this.sideBetween(twin, left.at(-1)!, w);
      }
    }
    this.refill(a, end, left, right, crossed, cut);
    return end;
  }

  /** The half-edge of the triangle of `h` that joins two corners. */
  private sideBetween(h: number, p: number, q: number): number {
    const { triangles } = this.mesh;
    for (const side of [h, nextSide(h), previousSide(h)]) {
      const [from, to] = [triangles[side]!, triangles[nextSide(side)]!];
      if ((from === p && to === q) || (from === q && to === p)) return side;
    }
    throw new Error('The triangle has no such side.');
  }

  private isAhead(a: number, b: number, v: number): boolean {
    const { e, n } = this;
    return (e[v]! - e[a]!) * (e[b]! - e[a]!) + (n[v]! - n[a]!) * (n[b]! - n[a]!) > 0;
  }

  private fix(h: number): void {
    this.isFixed[h] = 1;
    const twin = this.mesh.halfedges[h]!;
    if (twin >= 0) this.isFixed[twin] = 1;
  }

  /** Half-edges that start at a corner: both ways round, since the way may end at the hull. */
  private around(v: number): number[] {
    const { halfedges } = this.mesh;
    const first = this.incident[v]!;
    const found = [first];
    let h = halfedges[previousSide(first)]!;
    while (h >= 0 && h !== first) {
      found.push(h);
      h = halfedges[previousSide(h)]!;
    }
    if (h === first) return found;
    let twin = halfedges[first]!;
    while (twin >= 0) {
      h = nextSide(twin);
      if (h === first) break;
      found.push(h);
      twin = halfedges[h]!;
    }
    return found;
  }

  /** Fills what lies to the left and to the right of a-b in place of the triangles crossed. */
  private refill(
    a: number,
    b: number,
    left: readonly number[],
    right: readonly number[],
    crossed: readonly number[],
    cut: ReadonlySet<number>,
  ): void {
    const { triangles, halfedges } = this.mesh;
    const inside = new Set(crossed);
    /** The sides of the hole by their ends: what lies beyond, and whether they are held. A side may jut into the hole. */
    const rim = new Map<string, { twin: number; isFixed: number; juts: boolean }>();
    for (const f of crossed)
      for (let h = 3 * f; h < 3 * f + 3; h++) {
        if (cut.has(h)) continue;
        const twin = halfedges[h]!;
        const juts = twin >= 0 && inside.has(Math.floor(twin / 3));
        rim.set(`${triangles[h]} ${triangles[nextSide(h)]}`, { twin, isFixed: this.isFixed[h]!, juts });
      }
    const waiting = new Map<string, number>();
    const free = [...crossed];
    const link = (h: number, twin: number): void => {
      halfedges[h] = twin;
      if (twin >= 0) halfedges[twin] = h;
    };
    /** Triangles over the base p-q whose corners are to its left; gives the half-edge q-p. */
    const fill = (corners: readonly number[], p: number, q: number): number => {
      const f = free.pop()!;
      let best = 0;
      for (let k = 1; k < corners.length; k++) if (this.isInCircle(p, q, corners[best]!, corners[k]!)) best = k;
      const c = corners[best]!;
      const h = 3 * f;
      [q, p, c].forEach((v, k) => {
        triangles[h + k] = v;
        this.incident[v] = h + k;
        this.isFixed[h + k] = 0;
      });
      const join = (side: number, beyond: readonly number[], from: number, to: number): void => {
        if (beyond.length > 0) {
          link(side, fill(beyond, from, to));
          return;
        }
        const { twin, isFixed, juts } = rim.get(`${from} ${to}`)!;
        this.isFixed[side] = isFixed;
        if (!juts) {
          link(side, twin);
          return;
        }
        const other = waiting.get(`${to} ${from}`);
        if (other === undefined) waiting.set(`${from} ${to}`, side);
        else link(side, other);
      };
      join(h + 1, corners.slice(0, best), p, c);
      join(h + 2, corners.slice(best + 1), c, q);
      return h;
    };
    const upper = fill(left, a, b);
    const lower = fill([...right].reverse(), b, a);
    link(upper, lower);
    this.fix(upper);
  }

  /** Whether d lies in the circle through p, q and c, where c and d are to the left of p-q. */
  private isInCircle(p: number, q: number, c: number, d: number): boolean {
    const { e, n } = this;
    return incircle(e[p]!, n[p]!, e[q]!, n[q]!, e[c]!, n[c]!, e[d]!, n[d]!) > 0;
  }
}
