/**
 * Points of a format without scaled integers, as they are read: coordinates in full and what else the file has. Optional
 * columns are missing where the file does not carry them.
 */
export interface LoosePoints {
  readonly count: number;
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
  readonly intensity?: Uint16Array;
  readonly red?: Uint16Array;
  readonly green?: Uint16Array;
  readonly blue?: Uint16Array;
  readonly classification?: Uint8Array;
}

/** 8-bit colours in 16 bits: times 257, so that 255 becomes 65 535 (LAS 1.4 R15, "color image channel values"). */
export const EIGHT_BIT_COLOUR = 257;
