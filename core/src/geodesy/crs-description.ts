import type { LengthUnit } from './units.js';

/** What a file says of its coordinate reference system; every part may be missing. */
export interface CrsDescription {
  /** EPSG code of the horizontal (or compound) system. */
  readonly epsg?: number;
  /** EPSG code of the vertical system. */
  readonly verticalEpsg?: number;
  readonly name?: string;
  readonly horizontalUnit?: LengthUnit;
  readonly verticalUnit?: LengthUnit;
  /** True when the system is in degrees, which no surface can be built in. */
  readonly isGeographic?: boolean;
  /** The file's own well-known text, kept word for word. */
  readonly wkt?: string;
}
