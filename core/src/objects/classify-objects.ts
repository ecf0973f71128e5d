import type { Places } from '../cleaning/neighbour-grid.js';
import { groundAt, type GroundModel } from './ground-heights.js';
import { freeWires, wireMargin, wirePoints, type WireOptions } from './wires.js';
import { smallObjectMargin, smallObjects, type SmallObjectOptions } from './small-objects.js';
import { buildingPoints, roofMargin, type RoofOptions } from './roofs.js';

/** Codes of LAS 1.4 R15, table 17. */
export const OBJECT_CLASS = { unclassified: 1, low: 3, medium: 4, high: 5, building: 6, wire: 14, tower: 15 } as const;

export interface ObjectOptions {
  /** Heights over the ground at which low, medium and high vegetation begin, job units. */
  readonly lowFrom: number;
  readonly mediumFrom: number;
  readonly highFrom: number;
  /** Higher than this over the ground is no plant: left as it is. */
  readonly highest: number;
  /** Undefined where no buildings are sought. */
  readonly roofs: RoofOptions | undefined;
  /** Undefined where no wires are sought. */
  readonly wires: WireOptions | undefined;
  /** Poles, fences, vehicles; undefined where none are sought. */
  readonly small?: (SmallObjectOptions & { readonly fenceClass: number; readonly vehicleClass: number }) | undefined;
}

/** How far beyond a piece of land its points must be known. */
export function objectMargin({ roofs, wires, small }: ObjectOptions): number {
  const ofRoofs = roofs ? roofMargin(roofs) : 0;
  // Of a run of wire it has to be known all along whether it is a wall of what has a roof; and what is either, as far as small things reach.
  const ofWires = wires ? wireMargin(wires) + ofRoofs : ofRoofs;
  return ofWires + (small ? smallObjectMargin(small) : 0);
}

/**
 * New classes of points that are not ground: wires that run as lines, buildings by their roofs, poles, fences and vehicles by
 * their outline, the rest by height over the ground.
 * @param places - in job coordinates; the first `count` are judged, the others are the margin about them
 * @param isAsked - 1 for points that may be given a class; the others take no part
 * @param classes - present classes of the judged points
 * @param isGreen - 1 for points that are green, where the cloud has colours
 */
export function classifyObjects(
  places: Places,
  ground: GroundModel,
  options: ObjectOptions,
  isAsked: Uint8Array,
  classes: Uint8Array,
  count: number,
  isGreen?: Uint8Array,
): Uint8Array {
  const heights = new Float32Array(places.count);
  for (let i = 0; i < places.count; i++)
    heights[i] = isAsked[i] === 0 ? -Infinity : places.z[i]! - groundAt(ground, places.x[i]!, places.y[i]!);
  const buildings = options.roofs && buildingPoints(places, heights, options.roofs, isAsked, isGreen);
  const lines = options.wires && wirePoints(places, heights, options.wires, isAsked);
  const wires = lines && buildings ? freeWires(places, lines, buildings, options.wires!, options.roofs!.radius) : lines;
  const { small } = options;
  const things =
    small &&
    smallObjects(
      places,
      heights,
      small,
      isAsked.map((asked, i) => (asked === 1 && wires?.[i] !== 1 && buildings?.[i] !== 1 ? 1 : 0)),
      wires,
      buildings,
    );
  const codes = [0, OBJECT_CLASS.tower, small?.fenceClass ?? 0, small?.vehicleClass ?? 0, OBJECT_CLASS.wire];
  const out = classes.slice(0, count);
  const { lowFrom, mediumFrom, highFrom, highest } = options;
  for (let i = 0; i < count; i++) {
    if (isAsked[i] === 0) continue;
    const height = heights[i]!;
    if (wires?.[i] === 1) out[i] = OBJECT_CLASS.wire;
    else if (buildings?.[i] === 1) out[i] = OBJECT_CLASS.building;
    else if (things && things[i]! > 0) out[i] = codes[things[i]!]!;
    else if (height > highest) continue;
    else if (height >= highFrom) out[i] = OBJECT_CLASS.high;
    else if (height >= mediumFrom) out[i] = OBJECT_CLASS.medium;
    else out[i] = height >= lowFrom ? OBJECT_CLASS.low : OBJECT_CLASS.unclassified;
  }
  return out;
}
