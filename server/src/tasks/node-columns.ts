import { unpackColumns, type ColumnName, type PointColumns } from '@pampero/core/cloud';

/** A node's columns as they lie in the store. */
export interface NodeColumns {
  readonly nodeId: number;
  readonly count: number;
  readonly geometry: Uint8Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
  readonly attributes?: Uint8Array;
}

const POSITION_NAMES = ['x', 'y', 'z'] as const satisfies readonly ColumnName[];

const NO_COLUMNS: PointColumns = {
  gpsTime: false,
  rgb: false,
  nearInfrared: false,
  wavePacket: false,
  extraBytesLength: 0,
};

export function positionsOf(node: Pick<NodeColumns, 'count' | 'geometry'>): {
  count: number;
  x: Int32Array;
  y: Int32Array;
  z: Int32Array;
} {
  return { count: node.count, ...unpackColumns(node.geometry, node.count, POSITION_NAMES, NO_COLUMNS) } as ReturnType<
    typeof positionsOf
  >;
}
