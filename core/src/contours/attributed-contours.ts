import { columnFrom } from '../columns/index.js';
import type { AttributedLine } from '../formats/shapefile/index.js';
import type { ContourSet } from './contour-set.js';

/** Each contour with its elevation, whether it is an index contour, goes round a depression, is obscured, the interval, the unit and where it came from. */
export function attributedContours(
  { origin, level, isIndex, isDepression, isObscured, starts, easting, northing }: ContourSet,
  about: { readonly interval: number; readonly unit: string; readonly source: string },
): AttributedLine[] {
  return Array.from(level, (z, l) => {
    const [from, to] = [starts[l]!, starts[l + 1]!];
    return {
      easting: columnFrom(Float64Array, easting.subarray(from, to), (e) => e + origin[0]),
      northing: columnFrom(Float64Array, northing.subarray(from, to), (n) => n + origin[1]),
      elevation: new Float64Array(to - from).fill(z),
      attributes: {
        elevation: z,
        is_index: isIndex[l]!,
        depression: isDepression[l]!,
        obscured: isObscured[l]!,
        interval: about.interval,
        unit: about.unit,
        source: about.source,
      },
    };
  });
}
