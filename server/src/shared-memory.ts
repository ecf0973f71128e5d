/** Columns in memory that threads share: handed to many tasks without a copy each. */
export function sharedDoubles(length: number): Float64Array {
  return new Float64Array(new SharedArrayBuffer(8 * length));
}

export function sharedIntegers(length: number): Int32Array {
  return new Int32Array(new SharedArrayBuffer(4 * length));
}

export function sharedIndices(length: number): Uint32Array {
  return new Uint32Array(new SharedArrayBuffer(4 * length));
}

export function sharedBytes(length: number): Uint8Array {
  return new Uint8Array(new SharedArrayBuffer(length));
}

/** A copy in memory that threads share. */
export function shared(values: Float64Array): Float64Array;
export function shared(values: Float32Array): Float32Array;
export function shared(values: Float64Array | Float32Array): Float64Array | Float32Array {
  const memory = new SharedArrayBuffer(values.byteLength);
  const out = values instanceof Float64Array ? new Float64Array(memory) : new Float32Array(memory);
  out.set(values);
  return out;
}

/** The memory of an object's own columns, to be handed over rather than copied; what threads share stays where it is. */
export function memoryOf(columns: object): ArrayBuffer[] {
  const found = new Set<ArrayBuffer>();
  for (const value of Object.values(columns))
    if (
      ArrayBuffer.isView(value) &&
      value.buffer instanceof ArrayBuffer &&
      value.byteLength === value.buffer.byteLength
    )
      found.add(value.buffer);
  return [...found];
}
