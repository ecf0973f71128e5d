import type { Cloud } from '@pampero/contract';
import type { RampId } from '@pampero/core/tints';
import type { ColumnKey } from '../column-key';
import type { DrawnGrid } from '../grid-rasteriser';
import type { StripSpan } from '../strip-span';

/** A node's points, as they are coloured. */
export interface ColouredPoints {
  readonly node: { readonly count: number };
  readonly cloud: {
    readonly scale: readonly [number, number, number];
    readonly offset: readonly [number, number, number];
  };
  /** Scaled easting, northing and elevation, one after the other. */
  readonly integers: Int32Array;
  readonly points: { readonly x: Float32Array; readonly y: Float32Array; readonly z: Float32Array };
  /** What `points` are relative to, in scene coordinates. */
  readonly centre: readonly [number, number, number];
  readonly classes: Uint8Array;
  readonly columns: ReadonlyMap<ColumnKey, ArrayBuffer>;
}

/** What there is of a job to be coloured by. */
export interface ModeSight {
  readonly clouds: readonly Cloud[];
  readonly hasSurface: boolean;
  /** Strips that were found by their times. */
  readonly strips: readonly StripSpan[];
}

/** Colours that the page decides on. */
export interface KindColours {
  /** ABGR of each class. */
  readonly classColours: Uint32Array;
  readonly strips: readonly StripSpan[];
}

interface CommonFacts {
  readonly id: string;
  /** What the list of colours calls it. */
  readonly name: string;
  /** The attribute it is read from, fetched when it is first asked for. */
  readonly column?: ColumnKey;
  /** Whether there is something to show in it; always, where left out. */
  readonly isThere?: (sight: ModeSight) => boolean;
}

/** Points coloured by a value, along a ramp. */
export interface RampedMode extends CommonFacts {
  readonly ramp: RampId;
  readonly decimals: number;
  /** What its figures are in: the job's length unit, another, or none. */
  readonly unit: 'length' | '°' | 's' | '';
  /** A value a point; NaN where it has none. `grid` is the surface that is shown. */
  readonly valuesOf: (points: ColouredPoints, grid: DrawnGrid | undefined) => Float64Array;
  /** The ends of the ramp where the clouds tell them; otherwise they come from the values that are drawn. */
  readonly rangeOf?: (clouds: readonly Cloud[]) => readonly [number, number];
  /** The ends of the ramp as long as nothing is drawn. */
  readonly usualRange: readonly [number, number];
}

/** Points coloured by what kind they are. */
export interface KindMode extends CommonFacts {
  /** Writes a colour a point, ABGR. */
  readonly paint: (points: ColouredPoints, out: Uint32Array, colours: KindColours) => void;
  /** The kinds there are, for the list beside the view; classes have one of their own. */
  readonly kindsOf?: (sight: ModeSight) => readonly { readonly name: string; readonly colour: string }[];
}

export type ColourModeFacts = RampedMode | KindMode;

export function isRamped(mode: ColourModeFacts): mode is RampedMode {
  return 'ramp' in mode;
}

/** What has no value or no colour. */
export const PLAIN = 0xff8c8c8c;

/** The values of an attribute, or NaN for all where it is not there. */
export function columnValues(
  { columns, node }: ColouredPoints,
  key: ColumnKey,
  read: (bytes: ArrayBuffer) => Int16Array | Uint16Array | Float32Array | Float64Array,
): Float64Array {
  const bytes = columns.get(key);
  return bytes ? new Float64Array(read(bytes)) : new Float64Array(node.count).fill(NaN);
}

/** Red, green and blue of the points, 16 bits each; undefined where the cloud has no colours. */
export function bandsOf({ columns, node }: ColouredPoints): readonly Uint16Array[] | undefined {
  const bytes = columns.get('colour');
  return bytes && [0, 1, 2].map((band) => new Uint16Array(bytes, 2 * band * node.count, node.count));
}

/** The least and the greatest of ranges. */
export function rangeOver(ranges: readonly (readonly [number, number])[]): readonly [number, number] {
  return [Math.min(...ranges.map(([low]) => low)), Math.max(...ranges.map(([, high]) => high))];
}
