import type { ArithmeticEncoder } from './arithmetic-encoder.js';
import { SymbolModel } from './arithmetic-models.js';

export const folded = (value: number): number => value & 255;
const clamped = (value: number): number => (value < 0 ? 0 : value > 255 ? 255 : value);

/** Codes colours byte by byte: LASzip items RGB12, version 2, and RGB14, version 3. */
export class ColourEncoder {
  private readonly used = new SymbolModel(128);
  private readonly bytes = Array.from({ length: 6 }, () => new SymbolModel(256));

  constructor(private readonly encoder: ArithmeticEncoder) {}

  /** @returns whether the colour differs from the last one */
  put(view: DataView, at: number, last: DataView, lastAt: number): boolean {
    const { encoder, bytes } = this;
    const now = (i: number): number => view.getUint8(at + i);
    const was = (i: number): number => last.getUint8(lastAt + i);
    const differs = now(0) !== now(2) || now(0) !== now(4) || now(1) !== now(3) || now(1) !== now(5);
    let used = differs ? 64 : 0;
    for (let i = 0; i < 6; i++) if (now(i) !== was(i)) used |= 1 << i;
    encoder.symbol(this.used, used);
    let low = 0;
    let high = 0;
    if (used & 1) {
      low = now(0) - was(0);
      encoder.symbol(bytes[0]!, folded(low));
    }
    if (used & 2) {
      high = now(1) - was(1);
      encoder.symbol(bytes[1]!, folded(high));
    }
    if (!(used & 64)) return (used & 63) !== 0;
    if (used & 4) encoder.symbol(bytes[2]!, folded(now(2) - clamped(low + was(2))));
    if (used & 16) {
      low = Math.trunc((low + now(2) - was(2)) / 2);
      encoder.symbol(bytes[4]!, folded(now(4) - clamped(low + was(4))));
    }
    if (used & 8) encoder.symbol(bytes[3]!, folded(now(3) - clamped(high + was(3))));
    if (used & 32) {
      high = Math.trunc((high + now(3) - was(3)) / 2);
      encoder.symbol(bytes[5]!, folded(now(5) - clamped(high + was(5))));
    }
    return (used & 63) !== 0;
  }
}
