import type { PointColumns } from '../../cloud/index.js';

/** Where the parts of a point record lie. LAS 1.4 R15, tables 7-24. */
export interface PointFormat {
  readonly id: number;
  readonly length: number;
  /** Formats 6-10: 4-bit returns, a class byte of its own, 16-bit scan angle. */
  readonly isExtended: boolean;
  readonly gpsTimeAt?: number;
  readonly rgbAt?: number;
  readonly nearInfraredAt?: number;
  readonly wavePacketAt?: number;
}

export const POINT_FORMATS: readonly PointFormat[] = [
  { id: 0, length: 20, isExtended: false },
  { id: 1, length: 28, isExtended: false, gpsTimeAt: 20 },
  { id: 2, length: 26, isExtended: false, rgbAt: 20 },
  { id: 3, length: 34, isExtended: false, gpsTimeAt: 20, rgbAt: 28 },
  { id: 4, length: 57, isExtended: false, gpsTimeAt: 20, wavePacketAt: 28 },
  { id: 5, length: 63, isExtended: false, gpsTimeAt: 20, rgbAt: 28, wavePacketAt: 34 },
  { id: 6, length: 30, isExtended: true, gpsTimeAt: 22 },
  { id: 7, length: 36, isExtended: true, gpsTimeAt: 22, rgbAt: 30 },
  { id: 8, length: 38, isExtended: true, gpsTimeAt: 22, rgbAt: 30, nearInfraredAt: 36 },
  { id: 9, length: 59, isExtended: true, gpsTimeAt: 22, wavePacketAt: 30 },
  { id: 10, length: 67, isExtended: true, gpsTimeAt: 22, rgbAt: 30, nearInfraredAt: 36, wavePacketAt: 38 },
];

export function pointColumnsOf(format: PointFormat, recordLength: number): PointColumns {
  return {
    gpsTime: format.gpsTimeAt !== undefined,
    rgb: format.rgbAt !== undefined,
    nearInfrared: format.nearInfraredAt !== undefined,
    wavePacket: format.wavePacketAt !== undefined,
    extraBytesLength: recordLength - format.length,
  };
}
