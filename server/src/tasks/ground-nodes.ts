import {
  unpackColumns,
  type ColumnName,
  type PointBatch,
  type PointColumns,
  type Quantisation,
} from '@pampero/core/cloud';
import { extraValues, type ExtraDimension } from '@pampero/core/formats/las';
import { doubtOfConfidence, doubtOfGreen, strongerDoubt } from '@pampero/core/ground';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** How to tell which points are doubtful as ground, from the nodes' attributes. */
export interface DoubtRule {
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly greenLimit?: number | undefined;
  /** Points that the source is less sure of than this are doubtful. */
  readonly confidence?: { readonly dimension: ExtraDimension; readonly least: number } | undefined;
}

export interface GroundTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  /** 1 for classes that may become ground or lose it. */
  readonly takes: Uint8Array;
  readonly doubt?: DoubtRule | undefined;
}

const COLOURS = ['red', 'green', 'blue'] as const;

/** How doubtful each of a node's points is as ground; undefined without a rule. */
export function doubtOf(node: NodeColumns, rule: DoubtRule | undefined): Float32Array | undefined {
  if (!rule) return undefined;
  const { columns, attributeNames, greenLimit, confidence } = rule;
  let green: Float32Array | undefined;
  if (greenLimit !== undefined)
    green = doubtOfGreen({ count: node.count, ...coloursOf(node, columns, attributeNames) }, greenLimit);
  let unsure: Float32Array | undefined;
  if (confidence) {
    const { extraBytes } = unpackColumns(node.attributes!, node.count, attributeNames, columns, ['extraBytes']);
    const values = extraValues(confidence.dimension, extraBytes as Uint8Array, columns.extraBytesLength, node.count);
    unsure = doubtOfConfidence(values, confidence.least);
  }
  return strongerDoubt(green, unsure);
}

export function coloursOf(
  node: NodeColumns,
  columns: PointColumns,
  names: readonly ColumnName[],
): Required<Pick<PointBatch, 'red' | 'green' | 'blue'>> {
  return unpackColumns(node.attributes!, node.count, names, columns, COLOURS) as never;
}

export function batchOf(node: NodeColumns, columns: PointColumns, names: readonly ColumnName[]) {
  const { returns } = unpackColumns(node.attributes!, node.count, names, columns, ['returns']);
  return {
    ...positionsOf(node),
    classification: node.classification,
    flags: node.flags,
    returns: returns as Uint8Array,
  };
}
