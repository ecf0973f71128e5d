import type { Quantisation } from '../../cloud/index.js';
import type { CrsDescription } from '../../geodesy/index.js';
import type { VariableLengthRecord } from './variable-length-record.js';

export interface LasWriterOptions {
  readonly version: '1.2' | '1.4';
  /** 1.4 takes any of 0-10, 1.2 only 0-3. */
  readonly pointFormat: number;
  readonly quantisation: Quantisation;
  /** Writes LAZ: formats 0 to 3 and 6 to 8. */
  readonly isCompressed?: boolean;
  readonly extraBytesLength?: number;
  readonly crs?: CrsDescription;
  /** Further records of the source to hand on: extra-bytes description, notes. */
  readonly records?: readonly VariableLengthRecord[];
  readonly generatingSoftware?: string;
  /** GPS times are seconds since 6 January 1980 less 10^9 (true), or of the GPS week (false). */
  readonly isStandardGpsTime?: boolean;
  /** Written as creation day and year; a fixed one gives the same bytes each time. */
  readonly created?: Date;
}
