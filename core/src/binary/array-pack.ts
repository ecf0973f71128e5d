import { PamperoError } from '../task/index.js';

const TYPES = { Float64Array, Float32Array, Uint32Array, Int32Array, Uint16Array, Int16Array, Uint8Array } as const;
type TypeName = keyof typeof TYPES;
export type PackedArray =
  Float64Array | Float32Array | Uint32Array | Int32Array | Uint16Array | Int16Array | Uint8Array;

interface Directory {
  readonly facts: unknown;
  readonly arrays: readonly { readonly name: string; readonly type: TypeName; readonly length: number }[];
}

const MAGIC = 0x31415050; // "PPA1", little-endian

/**
 * Puts named typed arrays and some facts about them into one run of bytes, for a blob or a download: magic, length of the
 * directory, the directory as JSON, then the arrays, each on an 8-byte boundary, little-endian.
 */
export function packArrays(arrays: Readonly<Record<string, PackedArray>>, facts: unknown): Uint8Array<ArrayBuffer> {
  const entries = Object.entries(arrays);
  const directory: Directory = {
    facts,
    arrays: entries.map(([name, values]) => ({
      name,
      type: values.constructor.name as TypeName,
      length: values.length,
    })),
  };
  const json = Array.from(JSON.stringify(directory), (c) => c.codePointAt(0)!).flatMap(utf8);
  const start = align(8 + json.length);
  const size = entries.reduce((at, [, values]) => align(at) + values.byteLength, start);
  const bytes = new Uint8Array(size);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, json.length, true);
  bytes.set(json, 8);
  let at = start;
  for (const [, values] of entries) {
    at = align(at);
    bytes.set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength), at);
    at += values.byteLength;
  }
  return bytes;
}

/**
 * The reverse of {@link packArrays}. The arrays lie over `bytes` where its memory is aligned, and over a copy where not.
 * @throws PamperoError `packed-arrays-damaged`
 */
export function unpackArrays(bytes: Uint8Array): { arrays: Record<string, PackedArray>; facts: unknown } {
  const aligned = bytes.byteOffset % 8 === 0 ? bytes : bytes.slice();
  const view = new DataView(aligned.buffer, aligned.byteOffset, aligned.byteLength);
  if (aligned.length < 8 || view.getUint32(0, true) !== MAGIC) throw damaged('it does not begin as packed arrays do');
  const jsonLength = view.getUint32(4, true);
  if (8 + jsonLength > aligned.length) throw damaged('its directory is cut short');
  const directory = JSON.parse(utf8Text(aligned.subarray(8, 8 + jsonLength))) as Directory;
  const arrays: Record<string, PackedArray> = {};
  let at = align(8 + jsonLength);
  for (const { name, type, length } of directory.arrays) {
    at = align(at);
    const Type = TYPES[type];
    const byteLength = length * Type.BYTES_PER_ELEMENT;
    if (at + byteLength > aligned.length) throw damaged(`"${name}" is cut short`);
    arrays[name] = new Type(aligned.buffer as ArrayBuffer, aligned.byteOffset + at, length);
    at += byteLength;
  }
  return { arrays, facts: directory.facts };
}

function align(at: number): number {
  return (at + 7) & ~7;
}

function damaged(why: string): PamperoError {
  return new PamperoError('packed-arrays-damaged', {
    what: `Stored arrays cannot be read: ${why}.`,
    fix: 'Build the surface or the contours again.',
  });
}

function utf8(code: number): number[] {
  if (code < 0x80) return [code];
  if (code < 0x800) return [0xc0 | (code >> 6), 0x80 | (code & 63)];
  if (code < 0x10000) return [0xe0 | (code >> 12), 0x80 | ((code >> 6) & 63), 0x80 | (code & 63)];
  return [0xf0 | (code >> 18), 0x80 | ((code >> 12) & 63), 0x80 | ((code >> 6) & 63), 0x80 | (code & 63)];
}

function utf8Text(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length;) {
    const first = bytes[i]!;
    const more = first < 0x80 ? 0 : first < 0xe0 ? 1 : first < 0xf0 ? 2 : 3;
    let code = more === 0 ? first : first & (0x3f >> more);
    for (let k = 1; k <= more; k++) code = (code << 6) | (bytes[i + k]! & 63);
    text += String.fromCodePoint(code);
    i += more + 1;
  }
  return text;
}
