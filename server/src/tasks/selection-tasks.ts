import { extraValues, type ExtraDimension } from '@pampero/core/formats/las';
import { unpackColumns, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import {
  growPatch,
  PreparedSelection,
  type Box,
  type Front,
  type PatchRule,
  type SelectablePoints,
  type Selection,
} from '@pampero/core/selection';
import { packDifference, type ChangedMarks } from '../store/mark-difference.js';
import { countSelectedClasses, type SelectedCounts } from './selected-counts.js';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** A node to be selected from; positions only where they are needed. */
export interface SelectableNode extends Omit<NodeColumns, 'geometry'> {
  readonly cloudId: number;
  readonly quantisation: Quantisation;
  readonly box: Box;
  readonly geometry?: Uint8Array;
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly known: Readonly<Record<string, ExtraDimension>>;
}

export interface SelectionTask {
  readonly nodes: readonly SelectableNode[];
  readonly selection: Selection;
  /** What lies in front, gathered before from all nodes. */
  readonly fronts: readonly Front[];
}

export function selectable(node: SelectableNode, wanted: ReadonlySet<ColumnName>): SelectablePoints {
  const attributes =
    node.attributes && unpackColumns(node.attributes, node.count, node.attributeNames, node.columns, [...wanted]);
  const extraBytes = attributes?.extraBytes as Uint8Array | undefined;
  return {
    nodeId: node.nodeId,
    cloudId: node.cloudId,
    count: node.count,
    quantisation: node.quantisation,
    box: node.box,
    classification: node.classification,
    flags: node.flags,
    ...(node.geometry && positionsOf({ count: node.count, geometry: node.geometry })),
    ...attributes,
    ...(extraBytes &&
      Object.fromEntries(
        Object.entries(node.known).map(([name, dimension]) => [
          name,
          extraValues(dimension, extraBytes, node.columns.extraBytesLength, node.count),
        ]),
      )),
  } as SelectablePoints;
}

/** What of these nodes lies in front, for the selection's views. */
export function selectionFronts({ nodes, selection }: Omit<SelectionTask, 'fronts'>): readonly Front[] {
  const prepared = new PreparedSelection(selection);
  for (const node of nodes) prepared.addToFronts(selectable(node, prepared.columns));
  return prepared.fronts();
}

function prepare({ selection, fronts }: SelectionTask): PreparedSelection {
  const prepared = new PreparedSelection(selection);
  prepared.mergeFronts(fronts);
  return prepared;
}

export function countSelected(task: SelectionTask): SelectedCounts {
  const prepared = prepare(task);
  const counts: SelectedCounts = { classes: new Float64Array(256), withheld: 0 };
  for (const node of task.nodes) countSelectedClasses(counts, node, prepared.mask(selectable(node, prepared.columns)));
  return counts;
}

/** What is done to selected points: a class is set, flags are set, flags are taken off. */
export interface MarkChange {
  readonly classCode?: number;
  readonly setFlags?: number;
  readonly clearFlags?: number;
}

/** New marks of those nodes in which something changes, and how many points of each class were changed. */
export function changeSelected(task: SelectionTask & { readonly change: MarkChange }): {
  changes: ChangedMarks[];
  counts: SelectedCounts;
} {
  const prepared = prepare(task);
  const { classCode, setFlags = 0, clearFlags = 0 } = task.change;
  const counts: SelectedCounts = { classes: new Float64Array(256), withheld: 0 };
  const changes: ChangedMarks[] = [];
  for (const node of task.nodes) {
    const mask = prepared.mask(selectable(node, prepared.columns));
    const { count } = node;
    const classification = Uint8Array.from(node.classification);
    const flags = Uint8Array.from(node.flags);
    let isChanged = false;
    for (let i = 0; i < count; i++) {
      if (mask[i] === 0) continue;
      const to = classCode ?? node.classification[i]!;
      const toFlags = (node.flags[i]! | setFlags) & ~clearFlags;
      if (to === node.classification[i] && toFlags === node.flags[i]) {
        mask[i] = 0;
        continue;
      }
      isChanged = true;
      classification[i] = to;
      flags[i] = toFlags;
    }
    if (!isChanged) continue;
    countSelectedClasses(counts, node, mask);
    changes.push({
      nodeId: node.nodeId,
      classification,
      flags,
      packed: packDifference(node, { classification, flags }),
    });
  }
  return { changes, counts };
}

/** The points selected, node by node, as bits. */
export function selectedBits(task: SelectionTask): { nodeId: number; bits: Uint8Array; count: number }[] {
  const prepared = prepare(task);
  return task.nodes.flatMap((node) => {
    const mask = prepared.mask(selectable(node, prepared.columns));
    const bits = new Uint8Array((node.count + 7) >> 3);
    let count = 0;
    for (let i = 0; i < node.count; i++)
      if (mask[i] === 1) {
        bits[i >> 3]! |= 1 << (i & 7);
        count++;
      }
    return count > 0 ? [{ nodeId: node.nodeId, bits, count }] : [];
  });
}

export interface PatchTask {
  readonly nodes: readonly SelectableNode[];
  /** What may belong to the patch at all. */
  readonly selection: Selection;
  readonly seed: readonly [number, number, number];
  readonly limit: number;
  readonly rule: PatchRule;
}

/** The patch round the point nearest to the place touched, as bits; cut where it comes to the limit. */
export function growPatchOver({ nodes, selection, seed, limit, rule }: PatchTask): {
  nodes: { nodeId: number; bits: Uint8Array }[];
  points: number;
  isCut: boolean;
} {
  const prepared = new PreparedSelection(selection);
  const wanted = new Set<ColumnName>([...prepared.columns, 'red', 'green', 'blue']);
  const parts = nodes.map((node) => {
    const points = selectable(node, wanted);
    const mask = prepared.mask(points);
    const indices = new Uint32Array(mask.reduce((sum, bit) => sum + bit, 0));
    let at = 0;
    for (let i = 0; i < points.count; i++) if (mask[i] === 1) indices[at++] = i;
    return { points, indices };
  });
  const total = parts.reduce((sum, { indices }) => sum + indices.length, 0);
  const [x, y, z] = [new Float64Array(total), new Float64Array(total), new Float64Array(total)];
  const hasColour = rule.colourStep !== undefined && parts.every(({ points }) => points.red);
  const colours = hasColour ? [0, 1, 2].map(() => new Float32Array(total)) : undefined;
  let at = 0;
  let nearest = -1;
  let least = Infinity;
  for (const { points, indices } of parts) {
    const { scale, offset } = points.quantisation;
    for (const i of indices) {
      x[at] = points.x![i]! * scale[0] + offset[0] - seed[0];
      y[at] = points.y![i]! * scale[1] + offset[1] - seed[1];
      z[at] = points.z![i]! * scale[2] + offset[2] - seed[2];
      if (colours) {
        colours[0]![at] = points.red![i]! / 65_535;
        colours[1]![at] = points.green![i]! / 65_535;
        colours[2]![at] = points.blue![i]! / 65_535;
      }
      const distance = x[at]! ** 2 + y[at]! ** 2 + z[at]! ** 2;
      if (distance < least) {
        least = distance;
        nearest = at;
      }
      at++;
    }
  }
  if (nearest < 0) return { nodes: [], points: 0, isCut: false };
  const patch = growPatch(
    { x, y, z, ...(colours && { red: colours[0]!, green: colours[1]!, blue: colours[2]! }) },
    nearest,
    rule,
  );
  let points = 0;
  let isCut = false;
  at = 0;
  const out: { nodeId: number; bits: Uint8Array }[] = [];
  const edge = limit - rule.reach;
  for (const { points: node, indices } of parts) {
    const bits = new Uint8Array((node.count + 7) >> 3);
    const before = points;
    for (const i of indices) {
      if (patch[at] === 1) {
        bits[i >> 3]! |= 1 << (i & 7);
        points++;
        isCut ||= Math.max(Math.abs(x[at]!), Math.abs(y[at]!), Math.abs(z[at]!)) > edge;
      }
      at++;
    }
    if (points > before) out.push({ nodeId: node.nodeId, bits });
  }
  return { nodes: out, points, isCut };
}
