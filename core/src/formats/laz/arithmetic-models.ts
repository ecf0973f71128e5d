/**
 * The adaptive arithmetic coding that LAZ files use. After A. Said (2004), "Introduction to Arithmetic Coding - Theory and
 * Practice", HP Laboratories HPL-2004-76, whose integer arithmetic the LASzip format (M. Isenburg 2013, "LASzip: lossless
 * compression of lidar data", PE&RS 79(2)) took over bit for bit.
 */
export const LEAST_LENGTH = 0x0100_0000;
export const SYMBOL_SHIFT = 15;
export const BIT_SHIFT = 13;
/** Bits of a correction that are coded by a model; those below them are taken as they come. */
export const HIGH_BITS = 8;
const SYMBOL_MOST = 1 << SYMBOL_SHIFT;
const BIT_MOST = 1 << BIT_SHIFT;
const UNSCALED = 1 << (31 - SYMBOL_SHIFT);

/** Probabilities of `symbols` symbols, learnt on the way. */
export class SymbolModel {
  readonly distribution: Uint32Array;
  private readonly counts: Uint32Array;
  private total = 0;
  private cycle: number;
  private untilUpdate: number;

  constructor(readonly symbols: number) {
    this.distribution = new Uint32Array(symbols);
    this.counts = new Uint32Array(symbols).fill(1);
    this.cycle = symbols;
    this.untilUpdate = 0;
    this.update();
    this.untilUpdate = this.cycle = (symbols + 6) >> 1;
  }

  count(symbol: number): void {
    this.counts[symbol]!++;
    if (--this.untilUpdate === 0) this.update();
  }

  private update(): void {
    this.total += this.cycle;
    if (this.total > SYMBOL_MOST) {
      this.total = 0;
      for (let s = 0; s < this.symbols; s++) this.total += this.counts[s] = (this.counts[s]! + 1) >> 1;
    }
    const scale = Math.floor(0x8000_0000 / this.total);
    let sum = 0;
    for (let s = 0; s < this.symbols; s++) {
      // Below 2^31 times 2^15 this is exact in a double; the column takes the whole part.
      this.distribution[s] = (scale * sum) / UNSCALED;
      sum += this.counts[s]!;
    }
    this.cycle = Math.min((5 * this.cycle) >> 2, (this.symbols + 6) << 3);
    this.untilUpdate = this.cycle;
  }
}

/** The probability of a bit, learnt on the way. */
export class BitModel {
  zeroShare = 1 << (BIT_SHIFT - 1);
  private zeros = 1;
  private total = 2;
  private cycle = 4;
  private untilUpdate = 4;

  count(bit: number): void {
    if (bit === 0) this.zeros++;
    if (--this.untilUpdate > 0) return;
    this.total += this.cycle;
    if (this.total > BIT_MOST) {
      this.total = (this.total + 1) >> 1;
      this.zeros = (this.zeros + 1) >> 1;
      if (this.zeros === this.total) this.total++;
    }
    const scale = Math.floor(0x8000_0000 / this.total);
    this.zeroShare = Math.floor((this.zeros * scale) / 2 ** (31 - BIT_SHIFT));
    this.cycle = Math.min((5 * this.cycle) >> 2, 64);
    this.untilUpdate = this.cycle;
  }
}
