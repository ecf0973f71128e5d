import { FormatError } from '../format-error.js';

import { BIT_SHIFT, BitModel, HIGH_BITS, LEAST_LENGTH, SYMBOL_SHIFT, SymbolModel } from './arithmetic-models.js';

/** Reads symbols, bits and raw bits from coded bytes. */
export class ArithmeticDecoder {
  private at = 0;
  private value = 0;
  private length = 0xffff_ffff;

  /** @throws FormatError `file-ends-early` when it runs out of bytes */
  constructor(
    private readonly bytes: Uint8Array,
    private readonly title: string,
  ) {
    for (let i = 0; i < 4; i++) this.value = this.value * 256 + this.next();
  }

  symbol(model: SymbolModel): number {
    const { distribution } = model;
    let y = this.length;
    this.length = this.length >>> SYMBOL_SHIFT;
    let x = 0;
    let low = 0;
    let high = model.symbols;
    for (let middle = high >> 1; middle !== low; middle = (low + high) >> 1) {
      const z = this.length * distribution[middle]!;
      if (z > this.value) {
        high = middle;
        y = z;
      } else {
        low = middle;
        x = z;
      }
    }
    this.value -= x;
    this.length = y - x;
    this.renew();
    model.count(low);
    return low;
  }

  bit(model: BitModel): number {
    const x = model.zeroShare * (this.length >>> BIT_SHIFT);
    const bit = this.value >= x ? 1 : 0;
    if (bit === 0) this.length = x;
    else {
      this.value -= x;
      this.length -= x;
    }
    this.renew();
    model.count(bit);
    return bit;
  }

  /** So many bits, each as likely 0 as 1; at most 32. */
  rawBits(bits: number): number {
    if (bits > 19) {
      const low = this.rawBits(16);
      return this.rawBits(bits - 16) * 65_536 + low;
    }
    this.length = Math.floor(this.length / 2 ** bits);
    const value = Math.floor(this.value / this.length);
    this.value -= this.length * value;
    this.renew();
    return value;
  }

  private renew(): void {
    while (this.length < LEAST_LENGTH) {
      this.value = this.value * 256 + this.next();
      this.length *= 256;
    }
  }

  private next(): number {
    if (this.at >= this.bytes.length) {
      throw new FormatError('file-ends-early', {
        what: `The coded bytes end after ${this.at}.`,
        where: this.title,
        fix: 'The file is cut short: copy or export it again.',
      });
    }
    return this.bytes[this.at++]!;
  }
}

/** Whole numbers of 32 bits, coded as what a prediction missed them by. */
export class IntegerDecoder {
  private readonly sizes: SymbolModel[];
  private readonly first = new BitModel();
  private readonly corrections: SymbolModel[] = [];

  constructor(
    private readonly decoder: ArithmeticDecoder,
    contexts: number,
  ) {
    this.sizes = Array.from({ length: contexts }, () => new SymbolModel(33));
    for (let bits = 1; bits <= 32; bits++) this.corrections[bits] = new SymbolModel(2 ** Math.min(bits, HIGH_BITS));
  }

  /** The next number, as an unsigned 32-bit integer. */
  next(prediction: number, context: number): number {
    const bits = this.decoder.symbol(this.sizes[context]!);
    if (bits === 0) return (prediction + this.decoder.bit(this.first)) >>> 0;
    if (bits === 32) return (prediction + 0x8000_0000) >>> 0;
    let correction = this.decoder.symbol(this.corrections[bits]!);
    if (bits > HIGH_BITS) correction = correction * 2 ** (bits - HIGH_BITS) + this.decoder.rawBits(bits - HIGH_BITS);
    correction = correction >= 2 ** (bits - 1) ? correction + 1 : correction - (2 ** bits - 1);
    return (prediction + correction) >>> 0;
  }
}
