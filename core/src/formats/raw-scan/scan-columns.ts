/**
 * Columns of a raw scan, by the headings they come under. Ours is an open layout: a return a line of text, or a point of LAS whose extra bytes hold
 * `range`, `across` and `along`. Times are GPS times, ranges in the length unit of the job, angles in degrees: across positive to the right,
 * along positive forward.
 */
const HEADINGS: readonly (readonly [RegExp, string])[] = [
  [/^(time|gpstime|gps_time|t)(\(.*\))?$/i, 'time'],
  [/^(range|distance|r|rho)(\(.*\))?$/i, 'range'],
  [/^(across|angle|scanangle|scan_angle|theta)(\(.*\))?$/i, 'across'],
  [/^(along|angle2|psi)(\(.*\))?$/i, 'along'],
  [/^(intensity|i|amplitude|reflectance)$/i, 'intensity'],
  [/^(return|returnnumber|return_number)$/i, 'return'],
  [/^(returns|numberofreturns|number_of_returns)$/i, 'returns'],
  [/^(strip|pointsourceid|point_source_id|line)$/i, 'strip'],
];

/** Names that columns of a raw scan may be given. */
export const SCAN_NAMES: readonly string[] = HEADINGS.map(([, name]) => name);

/** What a heading stands for, if it is known. */
export const scanColumn = (heading: string): string | undefined =>
  HEADINGS.find(([pattern]) => pattern.test(heading))?.[1];
