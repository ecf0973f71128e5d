/** A column of numbers of any kind. */
export type Column =
  | Float64Array<ArrayBuffer>
  | Float32Array<ArrayBuffer>
  | Int32Array<ArrayBuffer>
  | Uint32Array<ArrayBuffer>
  | Uint16Array<ArrayBuffer>
  | Uint8Array<ArrayBuffer>;

/**
 * As `Type.from(values, of)` does it, in a loop: over columns of points the language's own way goes through an iterator and takes
 * 120 ns a value where this takes ten (measured with Node 20).
 */
export function columnFrom<T extends Column, V>(
  type: new (length: number) => T,
  values: ArrayLike<V>,
  of: (value: V, k: number) => number,
): T {
  const out = new type(values.length);
  for (let k = 0; k < out.length; k++) out[k] = of(values[k]!, k);
  return out;
}

/** 0, 1, 2 and so on. */
export function ascending(count: number): Uint32Array<ArrayBuffer> {
  const out = new Uint32Array(count);
  for (let k = 0; k < count; k++) out[k] = k;
  return out;
}

/** The values that are named by their places, in that order: a loop that meets one kind of column, a nanosecond a value. */
export function picked(values: Float64Array, order: Uint32Array): Float64Array<ArrayBuffer> {
  const out = new Float64Array(order.length);
  for (let k = 0; k < order.length; k++) out[k] = values[order[k]!]!;
  return out;
}
