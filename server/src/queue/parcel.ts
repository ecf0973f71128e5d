import { createHash } from 'node:crypto';
import { deserialize, serialize } from 'node:v8';

/** Anything a task is given or answers with, as bytes and back: columns stay columns of the same kind. */
export function pack(value: unknown): Buffer {
  return serialize(unshared(value));
}

export function unpack(bytes: Uint8Array): unknown {
  return deserialize(bytes);
}

/** By which who receives bytes sees that they came whole. */
export function sumOf(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('base64url');
}

/** Memory that threads share cannot leave the process: it is copied. */
function unshared(value: unknown): unknown {
  if (ArrayBuffer.isView(value))
    return value.buffer instanceof SharedArrayBuffer && !(value instanceof DataView)
      ? (value as Float64Array).slice()
      : value;
  if (Array.isArray(value)) return value.map(unshared);
  if (value !== null && typeof value === 'object' && Object.getPrototypeOf(value) === Object.prototype)
    return Object.fromEntries(Object.entries(value).map(([key, part]) => [key, unshared(part)]));
  return value;
}
