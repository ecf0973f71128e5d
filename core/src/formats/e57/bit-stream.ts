import type { E57Encoding } from './e57-scan.js';

/** The bytes of one field across packets: what a packet leaves over goes on in the next. */
export class BitStream {
  private bytes = new Uint8Array(0);
  private bit = 0;
  private readonly bits: number;

  constructor(private readonly encoding: E57Encoding) {
    this.bits = encoding.kind === 'float' ? encoding.bytes * 8 : encoding.bits;
  }

  /** Whole values at hand; a field that never changes has no bytes and as many as one likes. */
  get ready(): number {
    return this.bits === 0 ? Infinity : Math.floor((this.bytes.length * 8 - this.bit) / this.bits);
  }

  /** Bytes that are not taken yet. */
  get held(): number {
    return this.bytes.length - (this.bit >> 3);
  }

  add(more: Uint8Array): void {
    const from = this.bit >> 3;
    const left = this.bytes.length - from;
    const joined = new Uint8Array(left + more.length);
    joined.set(this.bytes.subarray(from));
    joined.set(more, left);
    this.bytes = joined;
    this.bit &= 7;
  }

  /** The next `count` values, scaled. */
  take(count: number): Float64Array {
    const { encoding, bits } = this;
    const out = new Float64Array(count);
    const view = new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.byteLength);
    if (encoding.kind === 'float') {
      const start = this.bit >> 3;
      if (encoding.bytes === 4) for (let i = 0; i < count; i++) out[i] = view.getFloat32(start + i * 4, true);
      else for (let i = 0; i < count; i++) out[i] = view.getFloat64(start + i * 8, true);
    } else {
      const { minimum, scale, offset } = encoding;
      for (let i = 0; i < count; i++) out[i] = (minimum + this.integer(this.bit + i * bits)) * scale + offset;
    }
    this.bit += count * bits;
    return out;
  }

  /** `bits` bits from bit `at` on, least first. */
  private integer(at: number): number {
    const { bytes, bits } = this;
    let byte = at >> 3;
    const shift = at & 7;
    if (bits + shift <= 32) {
      const word =
        (bytes[byte] ?? 0) |
        ((bytes[byte + 1] ?? 0) << 8) |
        ((bytes[byte + 2] ?? 0) << 16) |
        ((bytes[byte + 3] ?? 0) << 24);
      return bits === 32 ? word >>> 0 : (word >>> shift) & (2 ** bits - 1);
    }
    let value = bytes[byte++]! >> shift;
    for (let filled = 8 - shift; filled < bits; filled += 8) {
      const rest = Math.min(8, bits - filled);
      value += ((bytes[byte++] ?? 0) & (2 ** rest - 1)) * 2 ** filled;
    }
    return value;
  }
}
