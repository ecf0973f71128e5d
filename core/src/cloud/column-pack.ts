import { WAVE_PACKET_LENGTH, type ColumnArray, type ColumnName, type PointColumns } from './point-batch.js';

const COLUMN_TYPES: Readonly<Record<ColumnName, new (length: number) => ColumnArray>> = {
  x: Int32Array,
  y: Int32Array,
  z: Int32Array,
  intensity: Uint16Array,
  returns: Uint8Array,
  flags: Uint8Array,
  classification: Uint8Array,
  userData: Uint8Array,
  scanAngle: Int16Array,
  pointSourceId: Uint16Array,
  gpsTime: Float64Array,
  red: Uint16Array,
  green: Uint16Array,
  blue: Uint16Array,
  nearInfrared: Uint16Array,
  wavePacket: Uint8Array,
  extraBytes: Uint8Array,
};

/** Lays columns of one node behind one another, little-endian, in the order given. The names are kept beside it. */
export function packColumns(columns: readonly { readonly values: ColumnArray }[]): Uint8Array {
  const bytes = new Uint8Array(columns.reduce((sum, { values }) => sum + values.byteLength, 0));
  let at = 0;
  for (const { values } of columns) {
    bytes.set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength), at);
    at += values.byteLength;
  }
  return bytes;
}

/**
 * The reverse of {@link packColumns}: a fresh, aligned array for each name in `wanted`.
 * @param names - all the columns that were packed, in their order
 */
export function unpackColumns(
  bytes: Uint8Array,
  count: number,
  names: readonly ColumnName[],
  columns: PointColumns,
  wanted: readonly ColumnName[] = names,
): Partial<Record<ColumnName, ColumnArray>> {
  const out: Partial<Record<ColumnName, ColumnArray>> = {};
  let at = 0;
  for (const name of names) {
    const stride = name === 'wavePacket' ? WAVE_PACKET_LENGTH : name === 'extraBytes' ? columns.extraBytesLength : 1;
    const Type = COLUMN_TYPES[name];
    const byteLength = count * stride * (Type as unknown as { BYTES_PER_ELEMENT: number }).BYTES_PER_ELEMENT;
    if (wanted.includes(name)) {
      const values = new Type(count * stride);
      new Uint8Array(values.buffer).set(bytes.subarray(at, at + byteLength));
      out[name] = values;
    }
    at += byteLength;
  }
  return out;
}
