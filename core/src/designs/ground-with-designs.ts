import { nextSide, triangulate, type TerrainLine, type Tin } from '../terrain/index.js';
import { FacetIndex } from '../volumes/index.js';

/** Ground points nearer than this to an edge of the design or of the ground's own lines are that edge's. */
const SAME = 5e-4;
/** How often a crossing is halved: to a millionth of a millimetre of a kilometre. */
const HALVINGS = 40;
/** Edges of what lies about a design end so far before it: where one design stands on another there is a step, and its foot is the later one's. */
const BEFORE = 2e-3;

type Place = readonly [easting: number, northing: number, elevation: number];

/**
 * The land as it will be: the ground with designs built into it. Within a design the surface is the design, triangle for triangle along its edges; beside
 * it the ground keeps its points and the edges at which it breaks; both meet in the line where the slopes meet the ground. Of designs that
 * overlap the later lies over the earlier. Where neither reaches there is no surface.
 */
export function groundWithDesigns(ground: Tin, designs: readonly Tin[]): Tin {
  return designs.reduce(withDesign, ground);
}

function withDesign(ground: Tin, design: Tin): Tin {
  const origin = [0, 0] as const;
  const [onGround, onDesign] = [new FacetIndex(ground, origin), new FacetIndex(design, origin)];
  const isDesign = (e: number, n: number): boolean => onDesign.elevationAt(e, n) !== undefined;
  const placeOf = (tin: Tin, k: number): Place => [
    tin.easting[k]! + tin.origin[0],
    tin.northing[k]! + tin.origin[1],
    tin.elevation[k]!,
  ];
  const kept: Place[] = [];
  const isUsed = new Uint8Array(ground.easting.length);
  for (const corner of ground.facets) isUsed[corner] = 1;
  for (let k = 0; k < isUsed.length; k++) {
    const place = placeOf(ground, k);
    if (isUsed[k] === 1 && !isDesign(place[0], place[1])) kept.push(place);
  }
  const lines: TerrainLine[] = [];
  const hold = (a: Place, b: Place): void => {
    lines.push({
      role: 'breakline',
      isClosed: false,
      easting: [a[0], b[0]],
      northing: [a[1], b[1]],
      elevation: [a[2], b[2]],
    });
  };
  eachEdge(design, (a, b, isHeld) => {
    if (isHeld) hold(placeOf(design, a), placeOf(design, b));
  });
  eachEdge(ground, (a, b, isHeld) => {
    if (!isHeld) return;
    for (const [from, to] of outside(placeOf(ground, a), placeOf(ground, b), isDesign)) hold(from, to);
  });
  const column = (axis: 0 | 1 | 2): Float64Array => Float64Array.from(kept, (place) => place[axis]);
  const { tin } = triangulate(
    column(0),
    column(1),
    column(2),
    {
      maximumEdge: 0,
      lines: { largestStep: 0, offset: SAME, crossing: 'first', crossingTolerance: Infinity },
      covers: (e, n) => isDesign(e, n) || onGround.elevationAt(e, n) !== undefined,
    },
    lines,
  );
  return tin;
}

/** Each edge once, and whether it has to stay: the slope breaks at it, or the surface ends. */
function eachEdge({ facets, twins, held }: Tin, visit: (a: number, b: number, isHeld: boolean) => void): void {
  for (let h = 0; h < facets.length; h++) {
    const twin = twins[h]!;
    if (twin > h) continue;
    visit(facets[h]!, facets[nextSide(h)]!, twin < 0 || held?.[h] === 1 || held?.[twin] === 1);
  }
}

/** The pieces of an edge that lie beside the design; where it goes in and out is found by halving. */
function outside(a: Place, b: Place, isDesign: (e: number, n: number) => boolean): (readonly [Place, Place])[] {
  const at = (share: number): Place => [
    a[0] + share * (b[0] - a[0]),
    a[1] + share * (b[1] - a[1]),
    a[2] + share * (b[2] - a[2]),
  ];
  const isIn = (share: number): boolean => {
    const [e, n] = at(share);
    return isDesign(e, n);
  };
  const steps = 16;
  const gap = BEFORE / Math.max(BEFORE, Math.hypot(b[0] - a[0], b[1] - a[1]));
  const pieces: (readonly [Place, Place])[] = [];
  let begin = isIn(0) ? undefined : 0;
  for (let k = 0; k < steps; k++) {
    let [low, high] = [k / steps, (k + 1) / steps];
    const [before, after] = [isIn(low), isIn(high)];
    if (before === after) continue;
    for (let turn = 0; turn < HALVINGS; turn++) {
      const middle = (low + high) / 2;
      if (isIn(middle) === before) low = middle;
      else high = middle;
    }
    if (before) begin = high + gap;
    else if (begin !== undefined) {
      if (low - gap > begin) pieces.push([at(begin), at(low - gap)]);
      begin = undefined;
    }
  }
  if (begin !== undefined && begin < 1) pieces.push([at(begin), b]);
  return pieces;
}
