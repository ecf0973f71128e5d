import type { CloudNode } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { ELEVATION_RAMP, INTENSITY_RAMP } from './colours';
import type { SceneNode } from './level-of-detail';
import type { DrawnPoints } from './rasteriser';
import type { DrawnCloud, PickedPoint, PointStyle } from './viewer-protocol';

/** A node's points in memory: positions fetched once, classes again when they change. */
export interface CachedNode {
  readonly slot: number;
  readonly cloud: DrawnCloud;
  node: SceneNode;
  /** The node's centre in scene coordinates. */
  readonly centre: readonly [number, number, number];
  readonly integers: Int32Array;
  points: DrawnPoints;
  classes: Uint8Array;
  flags: Uint8Array;
  classRevision: number;
  intensity: Uint16Array | undefined;
  /** Number of the last picture it was drawn in. */
  drawnAt: number;
  /** Style edition its colours were made with. */
  colouredAt: number;
  /** Goes up whenever the colours are made anew. */
  colourings: number;
}

/** Makes drawable points of a node's scaled integers: float32 only relative to the node's centre. */
export function decodeNode(
  slot: number,
  cloud: DrawnCloud,
  node: SceneNode,
  origin: readonly [number, number, number],
  geometry: ArrayBuffer,
  marks: ArrayBuffer,
): CachedNode {
  const integers = new Int32Array(geometry);
  const count = node.count;
  const centre = [0, 1, 2].map((axis) => (node.low[axis]! + node.high[axis]!) / 2) as [number, number, number];
  const columns = [0, 1, 2].map((axis) => {
    const out = new Float32Array(count);
    const scale = cloud.scale[axis]!;
    const shift = cloud.offset[axis]! - origin[axis]! - centre[axis]!;
    for (let i = 0, from = axis * count; i < count; i++) out[i] = integers[from + i]! * scale + shift;
    return out;
  }) as [Float32Array, Float32Array, Float32Array];
  return {
    slot,
    cloud,
    node,
    centre,
    integers,
    points: { count, x: columns[0], y: columns[1], z: columns[2], colour: new Uint32Array(count) },
    classes: new Uint8Array(marks, 0, count),
    flags: new Uint8Array(marks, count, count),
    classRevision: node.revision,
    intensity: undefined,
    drawnAt: 0,
    colouredAt: -1,
    colourings: 0,
  };
}

/** Colours the node's points; `edition` grows with every change of style. */
export function colourNode(cached: CachedNode, style: PointStyle, edition: number): void {
  if (cached.colouredAt === edition) return;
  const { colour, count } = cached.points;
  const { classes, flags, integers, intensity, cloud } = cached;
  const { classColours } = style;
  if (style.mode === 'class') for (let i = 0; i < count; i++) colour[i] = classColours[classes[i]!]!;
  else if (style.mode === 'elevation') {
    const [low, high] = style.elevationRange;
    const factor = 1023 / Math.max(1e-9, high - low);
    const from = 2 * count;
    for (let i = 0; i < count; i++) {
      const at = (integers[from + i]! * cloud.scale[2] + cloud.offset[2] - low) * factor;
      colour[i] = classColours[classes[i]!] === 0 ? 0 : ELEVATION_RAMP[at < 0 ? 0 : at > 1023 ? 1023 : at | 0]!;
    }
  } else if (intensity) {
    const [low, high] = style.intensityRange;
    const factor = 1023 / Math.max(1, high - low);
    for (let i = 0; i < count; i++) {
      const at = (intensity[i]! - low) * factor;
      colour[i] = classColours[classes[i]!] === 0 ? 0 : INTENSITY_RAMP[at < 0 ? 0 : at > 1023 ? 1023 : at | 0]!;
    }
  }
  if (!style.showWithheld) for (let i = 0; i < count; i++) if ((flags[i]! & PointFlag.withheld) !== 0) colour[i] = 0;
  cached.colouredAt = edition;
  cached.colourings++;
}

/** The exact coordinates of a point: integer times scale plus offset, as the file has them. */
export function exactPoint(cached: CachedNode, index: number): PickedPoint {
  const { integers, cloud, node } = cached;
  const at = (axis: 0 | 1 | 2): number => integers[axis * node.count + index]! * cloud.scale[axis] + cloud.offset[axis];
  return { easting: at(0), northing: at(1), elevation: at(2), classCode: cached.classes[index]!, cloudId: cloud.id };
}

export function sceneNode(node: CloudNode, cloud: DrawnCloud, origin: readonly [number, number, number]): SceneNode {
  const corner = (integers: readonly number[]): [number, number, number] =>
    [0, 1, 2].map((axis) => integers[axis]! * cloud.scale[axis]! + cloud.offset[axis]! - origin[axis]!) as [
      number,
      number,
      number,
    ];
  return { ...node, low: corner(node.min), high: corner(node.max) };
}
