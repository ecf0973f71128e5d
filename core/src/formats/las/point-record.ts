import { ascending } from '../../columns/index.js';
import { WAVE_PACKET_LENGTH, type PointBatch } from '../../cloud/index.js';
import type { PointFormat } from './point-format.js';

/** One degree in the 0.006-degree steps of formats 6-10; a whole degree of the older formats survives both ways. */
const SCAN_ANGLE_STEPS_A_DEGREE = 1 / 0.006;

/**
 * Unpacks `batch.count` records of `recordLength` bytes from `bytes` into the batch's columns.
 * @param order - which records, in the order of the batch; the first ones as they lie, where it is left out
 */
export function decodePoints(
  bytes: Uint8Array,
  format: PointFormat,
  recordLength: number,
  batch: PointBatch,
  order: Uint32Array = asTheyLie(batch.count),
): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const { count, x, y, z, intensity, returns, flags, classification, userData, scanAngle, pointSourceId } = batch;
  for (let i = 0; i < count; i++) {
    const at = order[i]! * recordLength;
    x[i] = view.getInt32(at, true);
    y[i] = view.getInt32(at + 4, true);
    z[i] = view.getInt32(at + 8, true);
    intensity[i] = view.getUint16(at + 12, true);
    if (format.isExtended) {
      returns[i] = bytes[at + 14]!;
      flags[i] = bytes[at + 15]!;
      classification[i] = bytes[at + 16]!;
      userData[i] = bytes[at + 17]!;
      scanAngle[i] = view.getInt16(at + 18, true);
      pointSourceId[i] = view.getUint16(at + 20, true);
    } else {
      const packed = bytes[at + 14]!;
      const classByte = bytes[at + 15]!;
      returns[i] = (packed & 0x07) | ((packed & 0x38) << 1);
      flags[i] = (classByte >> 5) | (packed & 0xc0); // synthetic, key-point, withheld; direction and edge keep their bits
      classification[i] = classByte & 0x1f;
      userData[i] = bytes[at + 17]!;
      scanAngle[i] = Math.round(view.getInt8(at + 16) * SCAN_ANGLE_STEPS_A_DEGREE);
      pointSourceId[i] = view.getUint16(at + 18, true);
    }
  }
  const { gpsTimeAt, rgbAt, nearInfraredAt, wavePacketAt } = format;
  const { gpsTime, red, green, blue, nearInfrared, wavePacket, extraBytes } = batch;
  if (gpsTimeAt !== undefined && gpsTime)
    for (let i = 0; i < count; i++) gpsTime[i] = view.getFloat64(order[i]! * recordLength + gpsTimeAt, true);
  if (rgbAt !== undefined && red && green && blue)
    for (let i = 0; i < count; i++) {
      const at = order[i]! * recordLength + rgbAt;
      red[i] = view.getUint16(at, true);
      green[i] = view.getUint16(at + 2, true);
      blue[i] = view.getUint16(at + 4, true);
    }
  if (nearInfraredAt !== undefined && nearInfrared)
    for (let i = 0; i < count; i++) nearInfrared[i] = view.getUint16(order[i]! * recordLength + nearInfraredAt, true);
  if (wavePacketAt !== undefined && wavePacket)
    copyOrdered(bytes, wavePacketAt, recordLength, wavePacket, WAVE_PACKET_LENGTH, order);
  const extra = recordLength - format.length;
  if (extra > 0 && extraBytes) copyOrdered(bytes, format.length, recordLength, extraBytes, extra, order);
}

/** Packs a batch into records; the reverse of {@link decodePoints}. `bytes` must be zeroed. */
export function encodePoints(batch: PointBatch, format: PointFormat, recordLength: number, bytes: Uint8Array): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, batch.count * recordLength);
  const { count, x, y, z, intensity, returns, flags, classification, userData, scanAngle, pointSourceId } = batch;
  for (let i = 0, at = 0; i < count; i++, at += recordLength) {
    view.setInt32(at, x[i]!, true);
    view.setInt32(at + 4, y[i]!, true);
    view.setInt32(at + 8, z[i]!, true);
    view.setUint16(at + 12, intensity[i]!, true);
    const r = returns[i]!;
    const f = flags[i]!;
    if (format.isExtended) {
      bytes[at + 14] = r;
      bytes[at + 15] = f;
      bytes[at + 16] = classification[i]!;
      bytes[at + 17] = userData[i]!;
      view.setInt16(at + 18, scanAngle[i]!, true);
      view.setUint16(at + 20, pointSourceId[i]!, true);
    } else {
      bytes[at + 14] = Math.min(r & 0x0f, 7) | (Math.min(r >> 4, 7) << 3) | (f & 0xc0);
      bytes[at + 15] = (classification[i]! & 0x1f) | ((f & 0x07) << 5);
      view.setInt8(at + 16, Math.max(-128, Math.min(127, Math.round(scanAngle[i]! / SCAN_ANGLE_STEPS_A_DEGREE))));
      bytes[at + 17] = userData[i]!;
      view.setUint16(at + 18, pointSourceId[i]!, true);
    }
  }
  const { gpsTimeAt, rgbAt, nearInfraredAt, wavePacketAt } = format;
  const { gpsTime, red, green, blue, nearInfrared, wavePacket, extraBytes } = batch;
  if (gpsTimeAt !== undefined && gpsTime)
    for (let i = 0, at = gpsTimeAt; i < count; i++, at += recordLength) view.setFloat64(at, gpsTime[i]!, true);
  if (rgbAt !== undefined && red && green && blue)
    for (let i = 0, at = rgbAt; i < count; i++, at += recordLength) {
      view.setUint16(at, red[i]!, true);
      view.setUint16(at + 2, green[i]!, true);
      view.setUint16(at + 4, blue[i]!, true);
    }
  if (nearInfraredAt !== undefined && nearInfrared)
    for (let i = 0, at = nearInfraredAt; i < count; i++, at += recordLength) view.setUint16(at, nearInfrared[i]!, true);
  if (wavePacketAt !== undefined && wavePacket)
    copyStrided(wavePacket, 0, WAVE_PACKET_LENGTH, bytes, wavePacketAt, recordLength, WAVE_PACKET_LENGTH, count);
  const extra = recordLength - format.length;
  if (extra > 0 && extraBytes) copyStrided(extraBytes, 0, extra, bytes, format.length, recordLength, extra, count);
}

/** So many bytes of each record named, one behind another. */
function copyOrdered(
  from: Uint8Array,
  fromAt: number,
  fromStride: number,
  to: Uint8Array,
  length: number,
  order: Uint32Array,
): void {
  for (let i = 0, target = 0; i < order.length; i++) {
    const source = fromAt + order[i]! * fromStride;
    for (let b = 0; b < length; b++) to[target++] = from[source + b]!;
  }
}

let numbers = new Uint32Array(0);
/** Rising numbers, kept, since every block asks for them. */
function asTheyLie(count: number): Uint32Array {
  if (numbers.length < count) numbers = ascending(count);
  return numbers.subarray(0, count);
}

function copyStrided(
  from: Uint8Array,
  fromAt: number,
  fromStride: number,
  to: Uint8Array,
  toAt: number,
  toStride: number,
  length: number,
  count: number,
): void {
  for (let i = 0; i < count; i++) {
    const source = fromAt + i * fromStride;
    const target = toAt + i * toStride;
    for (let b = 0; b < length; b++) to[target + b] = from[source + b]!;
  }
}
