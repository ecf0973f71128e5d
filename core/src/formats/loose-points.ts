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
  /** As {@link PointBatch} has them. */
  readonly returns?: Uint8Array;
  readonly gpsTime?: Float64Array;
  /** How sure the source is of each point, in its own measure. */
  readonly confidence?: Float32Array;
  /** The scan a point is of, from 1. */
  readonly pointSourceId?: Uint16Array;
}

/** Values between `low` and `high` as 16 bits. */
export function asSixteenBits(values: Float64Array, low: number, high: number): Uint16Array {
  const factor = high > low ? 65_535 / (high - low) : 0;
  const out = new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const value = Math.round((values[i]! - low) * factor);
    out[i] = value < 0 ? 0 : value > 65_535 ? 65_535 : value;
  }
  return out;
}
