/** The middle one of some values, of an even number the upper of both; undefined of none. */
export function upperMedian(values: readonly number[]): number | undefined {
  return Float64Array.from(values).sort()[values.length >> 1];
}
