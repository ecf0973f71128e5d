import { packArrays, unpackArrays } from '../binary/index.js';
import type { LineShape } from './line-shape.js';

/** A line of the job: its corners, which line it is, and who made it. */
export interface FeatureLine extends LineShape {
  /** The same for a line through all its edits. */
  readonly key: number;
  /** The field book's entry that gave it this shape; 0 where it came from an earlier version. */
  readonly entry: number;
}

/** Lines as they travel: all corners in one run, each line's from `starts[k]` on. */
export function packLines(lines: readonly FeatureLine[]): Uint8Array<ArrayBuffer> {
  const starts = new Uint32Array(lines.length + 1);
  lines.forEach(({ easting }, k) => (starts[k + 1] = starts[k]! + easting.length));
  const corners = starts[lines.length]!;
  const [easting, northing, elevation] = [0, 1, 2].map(() => new Float64Array(corners)) as [Float64Array, Float64Array, Float64Array]; // prettier-ignore
  const source = new Uint8Array(corners);
  lines.forEach((line, k) => {
    easting.set(line.easting, starts[k]);
    northing.set(line.northing, starts[k]);
    elevation.set(line.elevation, starts[k]);
    source.set(line.source, starts[k]);
  });
  return packArrays(
    {
      key: Uint32Array.from(lines, ({ key }) => key),
      entry: Uint32Array.from(lines, ({ entry }) => entry),
      isClosed: Uint8Array.from(lines, ({ isClosed }) => (isClosed ? 1 : 0)),
      starts,
      easting,
      northing,
      elevation,
      source,
    },
    {},
  );
}

/** The reverse of {@link packLines}; the lines lie over the bytes where these are aligned. */
export function unpackLines(bytes: Uint8Array): FeatureLine[] {
  const { arrays } = unpackArrays(bytes);
  const { easting, northing, elevation } = arrays as Record<'easting' | 'northing' | 'elevation', Float64Array>;
  const { key, entry, isClosed, starts, source } = arrays as Record<string, Uint32Array> & { source: Uint8Array };
  return Array.from(key!, (of, k) => {
    const [from, to] = [starts![k]!, starts![k + 1]!];
    return {
      key: of,
      entry: entry![k]!,
      isClosed: isClosed![k] === 1,
      easting: easting.subarray(from, to),
      northing: northing.subarray(from, to),
      elevation: elevation.subarray(from, to),
      source: source.subarray(from, to),
    };
  });
}
