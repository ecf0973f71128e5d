import { shapeOf, simplifyLine, sourceNumber, type LineShape } from '../lines/index.js';
import { signedArea, upperMedian } from '../measuring/index.js';
import { cellRings, connectedCells, eachNeighbour, planBounds, type RasterFrame } from '../raster/index.js';

export interface OutlineOptions {
  /** Cells that points of a building are gathered in: about as far as points lie apart, or a little more. Job units. */
  readonly cell: number;
  /** Smaller buildings are left out, square job units. */
  readonly leastArea: number;
  /** An outline is squared where its points lie within this of it (root mean square); job units. */
  readonly tolerance: number;
  /** Corners nearer to each other than this are no corners of their own; job units. */
  readonly shortestSide: number;
}

export interface BuildingOutline {
  /** Closed, counter-clockwise, at the median elevation of its points. */
  readonly ring: LineShape;
  /** All its corners are right angles. */
  readonly isSquared: boolean;
  /** How far the outermost points lie from it, root mean square, job units. */
  readonly residual: number;
  readonly area: number;
  readonly points: number;
}

interface Points {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
}

/** A side of a rectilinear ring in turned coordinates: it runs along x at this y, or along y at this x. */
interface Side {
  readonly isAlongX: boolean;
  at: number;
  /** +1 or −1: the way it runs. The building lies to the left. */
  way: 1 | -1;
}

type Corner = readonly [x: number, y: number];

/** Times that the direction is turned to where the outermost points of the sides lie. */
const REFINED = 2;
/** Directions that a building may lie in are tried at every so many degrees, then finer. */
const TRIED = 3;
/** Cells of a gap in a roof that are closed. */
const CLOSED = 1;
/** A squared outline covers its cells at least so well: what both have, of what either has. */
const COVERED = 0.82;
/** Strips across a side in which its outermost point is looked for are so many point spacings wide. */
const STRIP = 2;

/**
 * Outlines of buildings from the points of their roofs. The points of each are gathered in cells turned to its main direction, that in which the edges of the
 * cells have the fewest jogs; jogs shorter than the shortest side go; each side is laid through the outermost points of strips across it, moved outwards by what an even
 * spread of points leaves unseen there. Where that does not fit, round and oblique buildings, the outline is that of the cells, simplified, and says so.
 */
export function buildingOutlines(points: Points, options: OutlineOptions): BuildingOutline[] {
  if (points.easting.length === 0) return [];
  const { cell, leastArea } = options;
  const frame = frameAround(points.easting, points.northing, cell);
  const { isIn, cellOf } = gathered(points.easting, points.northing, frame);
  const pieces = connectedCells(frame, (at) => isIn[at] === 1).filter(
    (piece) => piece.length * cell * cell >= leastArea,
  );
  const pieceOf = new Int32Array(isIn.length).fill(-1);
  pieces.forEach((piece, k) => piece.forEach((at) => (pieceOf[at] = k)));
  const members = pieces.map((): number[] => []);
  for (let i = 0; i < points.easting.length; i++) {
    const piece = pieceOf[cellOf(i)]!;
    if (piece >= 0) members[piece]!.push(i);
  }
  return members.flatMap((list) => outlineOf(points, list, options) ?? []);
}

function outlineOf(points: Points, list: readonly number[], options: OutlineOptions): BuildingOutline | undefined {
  const { cell, leastArea, tolerance, shortestSide } = options;
  const [e0, n0] = [points.easting[list[0]!]!, points.northing[list[0]!]!];
  const turnedBy = (degrees: number): Turned => turned(points, list, e0, n0, (degrees * Math.PI) / 180);
  const coarse = Array.from({ length: 90 / TRIED }, (_, k) => k * TRIED);
  const best = fewestJogs(coarse, turnedBy, cell);
  let angle = fewestJogs(
    [-2, -1.5, -1, -0.5, 0, 0.5, 1, 1.5, 2].map((step) => best + step),
    turnedBy,
    cell,
  );
  for (let turn = 0; turn < REFINED; turn++) {
    const tried = turnedBy(angle);
    const { cells, corners } = edgeOf(tried, cell);
    const density = list.length / (cells.length * cell * cell);
    angle +=
      (laidThroughPoints(withoutJogs(sidesOf(corners), shortestSide), tried, cell, density).turn * 180) / Math.PI;
  }
  const own = turnedBy(angle);
  const { frame, cells, corners } = edgeOf(own, cell);
  const area = cells.length * cell * cell;
  if (area < leastArea) return undefined;
  const density = list.length / area;
  const sides = withoutJogs(sidesOf(corners), shortestSide);
  const elevation = upperMedian(list.map((i) => points.elevation[i]!))!;
  if (sides.length >= 4) {
    const { residual } = laidThroughPoints(sides, own, cell, density);
    const ring = cornersOf(sides);
    const ringArea = signedArea(ring);
    if (residual <= tolerance && ringArea > 0 && covers(ring, frame, cells) >= COVERED)
      return { ring: shaped(ring), isSquared: true, residual, area: ringArea, points: list.length };
  }
  // The middles of the edges of cells, told by legs that stay near them, and out to where the points end.
  const middles = corners.map(([x, y], k): Corner => {
    const [nextX, nextY] = corners[(k + 1) % corners.length]!;
    return [(x + nextX) / 2, (y + nextY) / 2];
  });
  const plain = simplifyLine(shaped(middles), Math.max(cell, tolerance));
  const places = Array.from(plain.easting, (e, k): Corner => [e, plain.northing[k]!]);
  return { ring: plain, isSquared: false, residual: cell / Math.sqrt(12), area: Math.abs(signedArea(places)), points: list.length }; // prettier-ignore

  function shaped(ring: readonly Corner[]): LineShape {
    const [cos, sin] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
    const corner = ([x, y]: Corner) => ({ e: e0 + cos * x - sin * y, n: n0 + sin * x + cos * y, z: elevation, source: sourceNumber('found') }); // prettier-ignore
    return shapeOf(ring.map(corner), true);
  }
}

interface Turned {
  readonly x: Float64Array;
  readonly y: Float64Array;
}

/** Points about one of them, turned so that a building in this direction lies along the axes. */
function turned({ easting, northing }: Points, list: readonly number[], e0: number, n0: number, angle: number): Turned {
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const x = new Float64Array(list.length);
  const y = new Float64Array(list.length);
  list.forEach((i, k) => {
    const [e, n] = [easting[i]! - e0, northing[i]! - n0];
    x[k] = cos * e + sin * n;
    y[k] = cos * n - sin * e;
  });
  return { x, y };
}

/** The direction in which the box about the points, and their edge in cells, turn the fewest corners. */
function fewestJogs(directions: readonly number[], turnedBy: (degrees: number) => Turned, cell: number): number {
  let [best, fewest] = [directions[0]!, Infinity];
  for (const degrees of directions) {
    const turned = turnedBy(degrees);
    // Cells laid from several places: where a side falls in its cell says nothing of the direction.
    let jogs = 0;
    for (const shift of [0, 0.33, 0.67]) jogs += sidesOf(edgeOf(turned, cell, shift).corners).length;
    if (jogs < fewest) [best, fewest] = [degrees, jogs];
  }
  return best;
}

/** The cells of a building and the corners of their edge. */
function edgeOf(
  { x, y }: Turned,
  cell: number,
  shift = 0,
): { frame: RasterFrame; cells: readonly number[]; corners: Corner[] } {
  const frame = frameAround(x, y, cell, shift);
  const cells = largestPiece(frame, gathered(x, y, frame).isIn);
  return { frame, cells, corners: outerRing(frame, cells) };
}

/** Which cells hold points, small gaps closed. */
function gathered(
  x: Float64Array,
  y: Float64Array,
  { east, north, cell, columns, rows }: RasterFrame,
): { isIn: Uint8Array; cellOf: (i: number) => number } {
  const cellOf = (i: number): number =>
    Math.floor((y[i]! - north) / cell) * columns + Math.floor((x[i]! - east) / cell);
  const isIn = new Uint8Array(columns * rows);
  for (let i = 0; i < x.length; i++) isIn[cellOf(i)] = 1;
  for (let ring = 0; ring < CLOSED; ring++) {
    const grown = isIn.slice();
    for (let at = 0; at < isIn.length; at++)
      if (isIn[at] === 1) eachNeighbour({ columns, rows }, at, (k) => (grown[k] = 1));
    const back = grown.slice();
    for (let at = 0; at < grown.length; at++)
      if (grown[at] === 0) eachNeighbour({ columns, rows }, at, (k) => (back[k] = 0));
    for (let at = 0; at < isIn.length; at++) if (back[at] === 1) isIn[at] = 1;
  }
  return { isIn, cellOf };
}

/** With room about the points for gaps to be closed. */
function frameAround(x: Float64Array, y: Float64Array, cell: number, shift = 0): RasterFrame {
  const { west, south, east, north } = planBounds(x, y);
  const margin = 3;
  const [left, bottom] = [west - (margin + shift) * cell, south - (margin + shift) * cell];
  return {
    east: left,
    north: bottom,
    cell,
    columns: Math.floor((east - left) / cell) + 1 + margin,
    rows: Math.floor((north - bottom) / cell) + 1 + margin,
  };
}

function largestPiece(frame: RasterFrame, isIn: Uint8Array): readonly number[] {
  return connectedCells(frame, (at) => isIn[at] === 1).reduce((a, b) => (b.length > a.length ? b : a), []);
}

/** The outer edge of a piece, in the coordinates of the frame. */
function outerRing(frame: RasterFrame, cells: readonly number[]): Corner[] {
  const own = new Set(cells);
  const outer = cellRings(frame, (at) => own.has(at), cells).find(({ isIsland }) => !isIsland);
  return (outer?.corners ?? []).map(([x, y]) => [frame.east + x * frame.cell, frame.north + y * frame.cell]);
}

/** Sides of a ring along the edges of cells: legs in one line are one side. */
function sidesOf(corners: readonly Corner[]): Side[] {
  const sides: Side[] = [];
  corners.forEach(([x, y], k) => {
    const [nextX, nextY] = corners[(k + 1) % corners.length]!;
    const isAlongX = nextY === y;
    const side: Side = { isAlongX, at: isAlongX ? y : x, way: (isAlongX ? nextX > x : nextY > y) ? 1 : -1 };
    const last = sides.at(-1);
    if (!last || last.isAlongX !== side.isAlongX || last.at !== side.at || last.way !== side.way) sides.push(side);
  });
  const [first, last] = [sides[0], sides.at(-1)];
  if (sides.length > 1 && first!.isAlongX === last!.isAlongX && first!.at === last!.at) sides.pop();
  return sides;
}

/** How long a side is: from the one before it to the one after it. */
function lengthOf(sides: readonly Side[], k: number): number {
  const count = sides.length;
  return Math.abs(sides[(k + 1) % count]!.at - sides[(k + count - 1) % count]!.at);
}

/** Takes out jogs, the shortest first: the sides either side of one become one, where most of them lies. */
function withoutJogs(given: readonly Side[], shortest: number): Side[] {
  const sides = given.map((side) => ({ ...side }));
  while (sides.length > 4) {
    let k = 0;
    for (let j = 1; j < sides.length; j++) if (lengthOf(sides, j) < lengthOf(sides, k) - 1e-9) k = j;
    if (lengthOf(sides, k) >= shortest) break;
    const count = sides.length;
    const [before, after] = [(k + count - 1) % count, (k + 1) % count];
    const [one, other] = [lengthOf(sides, before), lengthOf(sides, after)];
    const merged = { ...(one >= other ? sides[before]! : sides[after]!) };
    merged.at = (sides[before]!.at * one + sides[after]!.at * other) / (one + other || 1);
    // The jog goes, and of its two neighbours one is left; where they run against each other, a spike, that is the longer.
    if (sides[before]!.way !== sides[after]!.way) merged.at = one >= other ? sides[before]!.at : sides[after]!.at;
    const gone = new Set([k, after]);
    sides[before] = merged;
    const left = sides.filter((_, j) => !gone.has(j));
    sides.splice(0, sides.length, ...left);
  }
  return sides;
}

/**
 * Lays each side through the outermost points of strips across it.
 * @returns how far those lie from it, root mean square, and by how much all sides together would have to be turned to lie along them, radians
 */
function laidThroughPoints(
  sides: Side[],
  { x, y }: Turned,
  cell: number,
  density: number,
): { residual: number; turn: number } {
  const strip = STRIP / Math.sqrt(density);
  // Of points spread evenly the outermost of a strip lies so far within the edge, in the mean.
  const unseen = 1 / (density * strip);
  const reach = 2 * cell;
  let [sum, count, tilt, span] = [0, 0, 0, 0];
  const places = sides.map((side, k) => {
    const [from, to] = [sides[(k + sides.length - 1) % sides.length]!.at, sides[(k + 1) % sides.length]!.at];
    const [low, high] = [Math.min(from, to) + strip / 2, Math.max(from, to) - strip / 2];
    const strips = Math.max(1, Math.floor((high - low) / strip));
    // The building lies to the left: outwards is to the right of the way.
    const outwards = side.isAlongX ? -side.way : side.way;
    const outermost = new Float64Array(strips).fill(-Infinity);
    for (let i = 0; i < x.length; i++) {
      const [along, across] = side.isAlongX ? [x[i]!, y[i]!] : [y[i]!, x[i]!];
      if (along < low || along >= high || Math.abs(across - side.at) > reach) continue;
      const k0 = Math.min(strips - 1, Math.floor(((along - low) / (high - low)) * strips));
      outermost[k0] = Math.max(outermost[k0]!, outwards * across);
    }
    const found = Array.from(outermost, (value, j) => ({ along: (j + 0.5) * strip, value: value + unseen })).filter(
      ({ value }) => value > -Infinity,
    );
    if (found.length === 0) return side.at;
    const middle = upperMedian(found.map(({ value }) => value))!;
    // A chimney stack or a tree that touches it is not of the side.
    const near = found.filter(({ value }) => Math.abs(value - middle) <= cell);
    const mean = (pick: (of: (typeof near)[number]) => number): number =>
      near.reduce((total, of) => total + pick(of), 0) / near.length;
    const [at, centre] = [mean(({ value }) => value), mean(({ along }) => along)];
    for (const { along, value } of near) {
      // Turned by an angle, a side along x leaves it upwards, one along y to the left.
      tilt += (side.isAlongX ? outwards : -outwards) * (along - centre) * (value - at);
      span += (along - centre) ** 2;
    }
    for (const { value } of found) sum += (value - at) ** 2;
    count += found.length;
    return outwards * at;
  });
  places.forEach((at, k) => (sides[k]!.at = at));
  return { residual: count === 0 ? Infinity : Math.sqrt(sum / count), turn: span > 0 ? tilt / span : 0 };
}

function cornersOf(sides: readonly Side[]): Corner[] {
  return sides.map((side, k) => {
    const next = sides[(k + 1) % sides.length]!;
    return side.isAlongX ? [next.at, side.at] : [side.at, next.at];
  });
}

/** What a ring and some cells have in common, of what either covers; by the middles of cells. */
function covers(
  ring: readonly Corner[],
  { east, north, cell, columns, rows }: RasterFrame,
  cells: readonly number[],
): number {
  const own = new Set(cells);
  let [both, either] = [0, 0];
  for (let row = 0; row < rows; row++) {
    const y = north + (row + 0.5) * cell;
    const crossings = ring
      .flatMap(([ax, ay], k) => {
        const [bx, by] = ring[(k + 1) % ring.length]!;
        return ay > y !== by > y ? [ax + ((y - ay) / (by - ay)) * (bx - ax)] : [];
      })
      .sort((a, b) => a - b);
    for (let column = 0; column < columns; column++) {
      const x = east + (column + 0.5) * cell;
      const isInside = crossings.filter((at) => at <= x).length % 2 === 1;
      const isOwn = own.has(row * columns + column);
      if (isInside && isOwn) both++;
      if (isInside || isOwn) either++;
    }
  }
  return both / Math.max(1, either);
}
