import { BIT_SHIFT, BitModel, HIGH_BITS, LEAST_LENGTH, SYMBOL_SHIFT, SymbolModel } from './arithmetic-models.js';

/** Codes symbols, bits and raw bits into bytes; the reverse of the decoder. */
export class ArithmeticEncoder {
  private bytes = new Uint8Array(65_536);
  private at = 0;
  private base = 0;
  private length = 0xffff_ffff;

  symbol(model: SymbolModel, symbol: number): void {
    const share = this.length >>> SYMBOL_SHIFT;
    const x = share * model.distribution[symbol]!;
    this.length = symbol === model.symbols - 1 ? this.length - x : share * model.distribution[symbol + 1]! - x;
    this.advance(x);
    model.count(symbol);
  }

  bit(model: BitModel, bit: number): void {
    const x = model.zeroShare * (this.length >>> BIT_SHIFT);
    if (bit === 0) {
      this.length = x;
      this.advance(0);
    } else {
      this.length -= x;
      this.advance(x);
    }
    model.count(bit);
  }

  /** So many bits, each as likely 0 as 1; at most 32. */
  rawBits(bits: number, value: number): void {
    if (bits > 19) {
      this.rawBits(16, value & 0xffff);
      this.rawBits(bits - 16, value >>> 16);
      return;
    }
    this.length >>>= bits;
    this.advance(value * this.length);
  }

  /** Ends the code and returns it; the encoder is of no use after. */
  finish(): Uint8Array {
    const isLong = this.length > 2 * LEAST_LENGTH;
    const step = isLong ? LEAST_LENGTH : LEAST_LENGTH >>> 1;
    this.length = isLong ? LEAST_LENGTH >>> 1 : LEAST_LENGTH >>> 9;
    this.advance(step);
    // The decoder reads ahead of what it needs.
    for (let zeros = isLong ? 3 : 2; zeros > 0; zeros--) this.put(0);
    return this.bytes.subarray(0, this.at);
  }

  private advance(step: number): void {
    const sum = this.base + step;
    this.base = sum >>> 0;
    if (sum > 0xffff_ffff) {
      let carry = this.at - 1;
      while (this.bytes[carry] === 255) this.bytes[carry--] = 0;
      this.bytes[carry]!++;
    }
    while (this.length < LEAST_LENGTH) {
      this.put(this.base >>> 24);
      this.base = (this.base << 8) >>> 0;
      this.length = (this.length << 8) >>> 0;
    }
  }

  private put(byte: number): void {
    if (this.at === this.bytes.length) {
      const larger = new Uint8Array(this.bytes.length * 2);
      larger.set(this.bytes);
      this.bytes = larger;
    }
    this.bytes[this.at++] = byte;
  }
}

/** Whole numbers coded as what a prediction missed them by. */
export class IntegerEncoder {
  private readonly sizes: SymbolModel[];
  private readonly first = new BitModel();
  private readonly corrections: SymbolModel[] = [];
  /** Bits of the last correction: a measure of how rough the data is there. */
  lastBits = 0;

  /** @param bits - 16 or 32: numbers and corrections wrap round at that width */
  constructor(
    private readonly encoder: ArithmeticEncoder,
    private readonly bits: 16 | 32,
    contexts: number,
  ) {
    this.sizes = Array.from({ length: contexts }, () => new SymbolModel(bits + 1));
    for (let k = 1; k <= bits; k++) this.corrections[k] = new SymbolModel(2 ** Math.min(k, HIGH_BITS));
  }

  put(prediction: number, value: number, context: number): void {
    const shift = 32 - this.bits;
    let correction = ((value - prediction) << shift) >> shift;
    const size = correction <= 0 ? -correction : correction - 1;
    const k = size === 0 ? 0 : 32 - Math.clz32(size);
    this.lastBits = k;
    this.encoder.symbol(this.sizes[context]!, k);
    if (k === 0) this.encoder.bit(this.first, correction);
    else if (k < 32) {
      // Whole numbers of 32 bits all the way: a power or a remainder of doubles costs more than all the rest.
      correction = (correction < 0 ? correction + ((1 << k) - 1) : correction - 1) | 0;
      if (k <= HIGH_BITS) this.encoder.symbol(this.corrections[k]!, correction);
      else {
        const low = k - HIGH_BITS;
        this.encoder.symbol(this.corrections[k]!, correction >> low);
        this.encoder.rawBits(low, correction & ((1 << low) - 1));
      }
    }
  }
}
