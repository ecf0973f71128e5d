import { PointFlag, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** Nodes of one cloud, with the scale of their integers. */
export interface CloudColumns {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  /** How the attributes of its nodes lie, where they were read. */
  readonly attributes?: { readonly names: readonly ColumnName[]; readonly columns: PointColumns };
}

/** Points as doubles, in full coordinates. */
export interface ChosenPoints {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
}

/** Whether a point has one of the classes and is not withheld. */
export function isChosen({ classification, flags }: NodeColumns, i: number, classMask: Uint8Array): boolean {
  return classMask[classification[i]!] === 1 && (flags[i]! & PointFlag.withheld) === 0;
}

/** The points of some clouds that have one of the classes and are not withheld, cloud after cloud. */
export function chosenPoints(clouds: readonly CloudColumns[], classMask: Uint8Array): ChosenPoints {
  let count = 0;
  for (const { nodes } of clouds)
    for (const node of nodes) for (let i = 0; i < node.count; i++) if (isChosen(node, i, classMask)) count++;
  const easting = new Float64Array(count);
  const northing = new Float64Array(count);
  const elevation = new Float64Array(count);
  let at = 0;
  for (const { nodes, quantisation } of clouds) {
    const { scale, offset } = quantisation;
    for (const node of nodes) {
      const { x, y, z } = positionsOf(node);
      for (let i = 0; i < node.count; i++) {
        if (!isChosen(node, i, classMask)) continue;
        easting[at] = x[i]! * scale[0] + offset[0];
        northing[at] = y[i]! * scale[1] + offset[1];
        elevation[at++] = z[i]! * scale[2] + offset[2];
      }
    }
  }
  return { easting, northing, elevation };
}
