import type { CloudNode } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import type { PreparedSelection, SelectablePoints } from '@pampero/core/selection';
import { colourMode, isRamped, PLAIN, type ColourMode } from './colour-modes';
import type { ColumnKey } from './column-key';
import type { SceneNode } from './level-of-detail';
import { RAMP_SIZE } from '@pampero/core/tints';
import type { DrawnGrid } from './grid-rasteriser';
import type { DrawnPoints } from './point-rasteriser';
import type { DrawnCloud, PointStyle } from './drawing-protocol';
import type { PickedPoint } from './viewer-questions';

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
  /** Attribute columns fetched so far. */
  readonly columns: Map<ColumnKey, ArrayBuffer>;
  /** What the points are coloured by, kept while the mode stays. */
  values: { readonly mode: ColourMode; readonly grid: DrawnGrid | undefined; readonly of: Float64Array } | undefined;
  /** Of each point 1 where it is shown; undefined where all are, but for their class. */
  shown: Uint8Array | undefined;
  selected: Uint8Array | undefined;
  found: Uint8Array | undefined;
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
    columns: new Map(),
    values: undefined,
    shown: undefined,
    selected: undefined,
    found: undefined,
    drawnAt: 0,
    colouredAt: -1,
    colourings: 0,
  };
}

/** The node as a selection looks at it. */
export function asSelectable(cached: CachedNode): SelectablePoints {
  const { node, cloud, integers, classes, flags, columns } = cached;
  const { count } = node;
  const corner = (integer: readonly number[]): [number, number, number] =>
    [0, 1, 2].map((axis) => integer[axis]! * cloud.scale[axis]! + cloud.offset[axis]!) as [number, number, number];
  const colour = columns.get('colour');
  const column = <T>(key: ColumnKey, Type: new (bytes: ArrayBuffer) => T): T | undefined => {
    const bytes = columns.get(key);
    return bytes && new Type(bytes);
  };
  const optional = {
    intensity: column('intensity', Uint16Array),
    returns: column('returns', Uint8Array),
    scanAngle: column('scanAngle', Int16Array),
    pointSourceId: column('pointSourceId', Uint16Array),
    gpsTime: column('gpsTime', Float64Array),
    confidence: column('confidence', Float32Array),
    accuracy: column('accuracy', Float32Array),
    red: colour && new Uint16Array(colour, 0, count),
    green: colour && new Uint16Array(colour, 2 * count, count),
    blue: colour && new Uint16Array(colour, 4 * count, count),
  };
  return {
    nodeId: node.id,
    cloudId: cloud.id,
    count,
    quantisation: { scale: cloud.scale, offset: cloud.offset },
    box: { min: corner(node.min), max: corner(node.max) },
    x: integers.subarray(0, count),
    y: integers.subarray(count, 2 * count),
    z: integers.subarray(2 * count),
    classification: classes,
    flags,
    ...(Object.fromEntries(Object.entries(optional).filter(([, value]) => value)) as Partial<SelectablePoints>),
  };
}

/** Marks what is shown; `undefined` where all is. */
export function markShown(cached: CachedNode, shown: PreparedSelection | undefined): void {
  cached.shown = shown?.mask(asSelectable(cached));
  cached.colouredAt = -1;
}

/** Marks what is selected; `undefined` where nothing is. */
export function markSelected(cached: CachedNode, selected: PreparedSelection | undefined): void {
  const had = cached.selected !== undefined;
  cached.selected = undefined;
  if (selected) {
    const points = asSelectable(cached);
    if (selected.relationOf(points.box, points.nodeId, points.cloudId) !== 'outside') {
      const mask = selected.mask(points);
      if (mask.includes(1)) cached.selected = mask;
    }
  }
  // A node that has nothing to do with it need not be coloured again.
  if (had || cached.selected) cached.colouredAt = -1;
}

/** Colours the node's points; `edition` grows with every change of style. */
export function colourNode(cached: CachedNode, style: PointStyle, edition: number, grid: DrawnGrid | undefined): void {
  if (cached.colouredAt === edition) return;
  const { colour, count } = cached.points;
  const { classes, selected, found, shown } = cached;
  const mode = colourMode(style.mode);
  if (isRamped(mode)) {
    if (cached.values?.mode !== style.mode || cached.values.grid !== grid)
      cached.values = { mode: style.mode, grid, of: mode.valuesOf(cached, grid) };
    const values = cached.values.of;
    const [low, high] = style.range;
    const factor = (RAMP_SIZE - 1) / Math.max(1e-12, high - low);
    const { ramp } = style;
    for (let i = 0; i < count; i++) {
      const at = (values[i]! - low) * factor;
      // What has no value, for want of a surface or a colour, is grey.
      colour[i] = at !== at ? PLAIN : ramp[at < 0 ? 0 : at > RAMP_SIZE - 1 ? RAMP_SIZE - 1 : at | 0]!;
    }
  } else mode.paint(cached, colour, style);
  if (found) for (let i = 0; i < count; i++) if (found[i] === 1) colour[i] = style.found;
  if (selected) for (let i = 0; i < count; i++) if (selected[i] === 1) colour[i] = style.selected;
  if (shown) for (let i = 0; i < count; i++) if (shown[i] === 0) colour[i] = 0;
  const { hides } = style;
  const never = style.visible.withWithheld ? 0 : PointFlag.withheld;
  for (let i = 0, { flags } = cached; i < count; i++)
    if (hides[classes[i]!] === 1 || (flags[i]! & never) !== 0) colour[i] = 0;
  if (style.visible.withWithheld)
    // Withheld points that are shown all the same are pale.
    for (let i = 0, { flags } = cached; i < count; i++)
      if ((flags[i]! & PointFlag.withheld) !== 0 && colour[i] !== 0 && selected?.[i] !== 1)
        colour[i] = pale(colour[i]!);
  cached.colouredAt = edition;
  cached.colourings++;
}

function pale(colour: number): number {
  const half = (channel: number): number => (((colour >> channel) & 255) + 2 * 150) / 3;
  return (0xff000000 | (half(16) << 16) | (half(8) << 8) | half(0)) >>> 0;
}

/** The column a mode needs fetched and the node does not have yet. */
export function missingColumn(cached: CachedNode, mode: ColourMode): ColumnKey | undefined {
  const key = colourMode(mode).column;
  return key && !cached.columns.has(key) ? key : undefined;
}

/** The exact coordinates of a point: integer times scale plus offset, as the file has them. */
export function exactPoint(cached: CachedNode, index: number): PickedPoint {
  const { integers, cloud, node } = cached;
  const at = (axis: 0 | 1 | 2): number => integers[axis * node.count + index]! * cloud.scale[axis] + cloud.offset[axis];
  return {
    easting: at(0),
    northing: at(1),
    elevation: at(2),
    classCode: cached.classes[index]!,
    cloudId: cloud.id,
    nodeId: node.id,
    index,
  };
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
