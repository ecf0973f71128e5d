import Delaunator from 'delaunator';
import { incircle, orient2d } from 'robust-predicates';

/** The predicates' own senses: positive where three places turn to the left, and where the fourth lies in their circle. */
const LEFT = Math.sign(orient2d(0, 0, 1, 0, 0, 1));
const INSIDE = Math.sign(incircle(0, 0, 1, 0, 0, 1, 0.3, 0.3));

/**
 * A Delaunay triangulation that places are added to: each is walked to from a facet nearby, splits the facet it lies in, and edges are
 * flipped until all are Delaunay again (Lawson 1977, "Software for C1 surface interpolation", in Mathematical Software III, 161-194).
 * Where no four places lie on one circle it is the triangulation of all of them, whatever their order.
 *
 * Facets keep their number when they change. Vertices are numbered as they were given.
 */
export class GrowingTin {
  x: Float64Array;
  y: Float64Array;
  /** Three vertices a facet, turning to the left. */
  vertices: Uint32Array;
  private across: Int32Array;
  private stamps: Int32Array;
  private stamp = 0;
  private readonly changed: number[] = [];
  private readonly stack: number[] = [];
  count: number;
  facets: number;

  /** @param coords - easting and northing of the first places in turn: all later ones lie within their outline */
  constructor(coords: Float64Array) {
    const { triangles, halfedges } = new Delaunator(coords);
    this.count = coords.length / 2;
    this.facets = triangles.length / 3;
    this.x = new Float64Array(this.count);
    this.y = new Float64Array(this.count);
    for (let k = 0; k < this.count; k++) {
      this.x[k] = coords[2 * k]!;
      this.y[k] = coords[2 * k + 1]!;
    }
    this.vertices = Uint32Array.from(triangles);
    this.across = Int32Array.from(halfedges);
    this.stamps = new Int32Array(this.facets);
    if (
      this.facets > 0 &&
      this.turn(triangles[0]!, triangles[1]!, this.x[triangles[2]!]!, this.y[triangles[2]!]!) < 0
    ) {
      // It turns to the right: the first vertex stays, the other two change places.
      const mirrored = (e: number): number => e - (e % 3) + (2 - (e % 3));
      for (let t = 0; t < triangles.length; t += 3)
        this.vertices.set([triangles[t]!, triangles[t + 2]!, triangles[t + 1]!], t);
      halfedges.forEach((o, e) => (this.across[mirrored(e)] = o < 0 ? -1 : mirrored(o)));
    }
  }

  /** Makes room for so many places more. */
  reserve(more: number): void {
    const places = this.count + more;
    if (places > this.x.length) {
      this.x = grown(this.x, Math.max(places, Math.ceil(1.5 * this.x.length)));
      this.y = grown(this.y, this.x.length);
    }
    const facets = this.facets + 2 * more;
    if (facets > this.stamps.length) {
      const room = Math.max(facets, Math.ceil(1.5 * this.stamps.length));
      this.stamps = grown(this.stamps, room);
      this.vertices = grown(this.vertices, 3 * room);
      this.across = grown(this.across, 3 * room);
    }
  }

  /** Begins a round: {@link changedFacets} then tells which facets are new or another. */
  beginRound(): void {
    this.stamp++;
    this.changed.length = 0;
  }

  get changedFacets(): readonly number[] {
    return this.changed;
  }

  /**
   * Adds a place within the outline; one where a vertex stands already changes nothing.
   * @param near - a facet to set out from
   * @returns its number, or that of the vertex that stands there
   */
  add(px: number, py: number, near: number): number {
    const { x, y } = this;
    const t = this.facetAt(px, py, near);
    const [e, f, g] = [3 * t, 3 * this.facets, 3 * this.facets + 3];
    const a = this.vertices[e]!;
    const b = this.vertices[e + 1]!;
    const c = this.vertices[e + 2]!;
    for (const v of [a, b, c]) if (x[v] === px && y[v] === py) return v;
    const p = this.count++;
    x[p] = px;
    y[p] = py;
    const [toAB, toBC, toCA] = [this.across[e]!, this.across[e + 1]!, this.across[e + 2]!];
    this.facets += 2;
    this.write(e, a, b, p);
    this.write(f, b, c, p);
    this.write(g, c, a, p);
    this.link(e, toAB);
    this.link(f, toBC);
    this.link(g, toCA);
    this.link(e + 1, f + 2);
    this.link(f + 1, g + 2);
    this.link(g + 1, e + 2);
    this.stack.push(e, f, g);
    while (this.stack.length > 0) this.makeDelaunay(this.stack.pop()!);
    return p;
  }

  /**
   * The facet that a place within the outline lies in, by way of its neighbours.
   * @param near - a facet to set out from
   * @throws Error where it lies outside and is walked about for ever
   */
  facetAt(px: number, py: number, near: number): number {
    let t = near;
    // Each step crosses an edge that has the place on its other side; in a Delaunay triangulation that never comes back.
    walking: for (let steps = 0; steps <= this.facets; steps++) {
      for (let k = 0; k < 3; k++) {
        const e = 3 * t + k;
        const o = this.across[e]!;
        if (o < 0 || this.turn(this.vertices[e]!, this.vertices[3 * t + ((k + 1) % 3)]!, px, py) >= 0) continue;
        t = Math.floor(o / 3);
        continue walking;
      }
      return t;
    }
    throw new Error(`The place ${px}, ${py} lies outside the outline of the TIN.`);
  }

  /** Positive where a place lies to the left of the way from one vertex to another. */
  private turn(from: number, to: number, px: number, py: number): number {
    return LEFT * orient2d(this.x[from]!, this.y[from]!, this.x[to]!, this.y[to]!, px, py);
  }

  /** Flips an edge if the vertex beyond it lies in the circle of its facet, whose third vertex is the place that was added. */
  private makeDelaunay(e: number): void {
    const o = this.across[e]!;
    if (o < 0) return;
    const { x, y, vertices } = this;
    const [en, ep] = [following(e), preceding(e)];
    const [on, op] = [following(o), preceding(o)];
    const [a, b, p, d] = [vertices[e]!, vertices[en]!, vertices[ep]!, vertices[op]!];
    const isFlat = this.turn(a, b, x[p]!, y[p]!) === 0; // it came to lie on the edge
    if (!isFlat && INSIDE * incircle(x[a]!, y[a]!, x[b]!, y[b]!, x[p]!, y[p]!, x[d]!, y[d]!) <= 0) return;
    const [overAD, overDB, overBP] = [this.across[on]!, this.across[op]!, this.across[en]!];
    vertices[en] = d;
    vertices[o] = d;
    vertices[on] = b;
    vertices[op] = p;
    this.link(e, overAD);
    this.link(o, overDB);
    this.link(on, overBP);
    this.link(en, op);
    this.note(Math.floor(e / 3));
    this.note(Math.floor(o / 3));
    this.stack.push(e, o);
  }

  private write(e: number, a: number, b: number, c: number): void {
    this.vertices[e] = a;
    this.vertices[e + 1] = b;
    this.vertices[e + 2] = c;
    this.note(e / 3);
  }

  private note(facet: number): void {
    if (this.stamps[facet] === this.stamp) return;
    this.stamps[facet] = this.stamp;
    this.changed.push(facet);
  }

  private link(e: number, o: number): void {
    this.across[e] = o;
    if (o >= 0) this.across[o] = e;
  }
}

const following = (e: number): number => (e % 3 === 2 ? e - 2 : e + 1);
const preceding = (e: number): number => (e % 3 === 0 ? e + 2 : e - 1);

function grown<A extends Float64Array | Uint32Array | Int32Array>(array: A, length: number): A {
  const out = new (array.constructor as new (length: number) => A)(length);
  out.set(array as never);
  return out;
}
