import { IntegerEncoder, type ArithmeticEncoder } from './arithmetic-encoder.js';
import { SymbolModel } from './arithmetic-models.js';

const MULTIPLES = 500;
const LEAST_MULTIPLE = -10;
const UNCHANGED = MULTIPLES - LEAST_MULTIPLE + 1;

/**
 * Codes GPS times as whole multiples of the last step: LASzip item GPSTIME11, version 2, and the time layer of POINT14,
 * version 3, where a time that stays the same is told elsewhere and the symbols move down by one.
 */
export class GpsTimeEncoder {
  private readonly multiples: SymbolModel;
  private readonly afterNone: SymbolModel;
  /** Symbols taken by "unchanged". */
  private readonly shift: 0 | 1;
  private readonly steps: IntegerEncoder;
  private last = 0;
  private next = 0;
  /** Four sequences of times: high and low words, last step, and how often it did not fit. */
  private readonly high = new Int32Array(4);
  private readonly low = new Uint32Array(4);
  private readonly step = new Int32Array(4);
  private readonly extremes = new Uint8Array(4);

  constructor(
    private readonly encoder: ArithmeticEncoder,
    view: DataView,
    first: number,
    private readonly isLayered = false,
  ) {
    this.shift = isLayered ? 0 : 1;
    this.multiples = new SymbolModel(UNCHANGED + 4 + this.shift);
    this.afterNone = new SymbolModel(5 + this.shift);
    this.steps = new IntegerEncoder(encoder, 32, 9);
    this.low[0] = view.getUint32(first, true);
    this.high[0] = view.getInt32(first + 4, true);
  }

  put(view: DataView, at: number): void {
    const low = view.getUint32(at, true);
    const high = view.getInt32(at + 4, true);
    for (;;) {
      const { last, encoder, shift } = this;
      const full = UNCHANGED + shift;
      const hasStep = this.step[last] !== 0;
      if (!this.isLayered && low === this.low[last] && high === this.high[last]) {
        encoder.symbol(hasStep ? this.multiples : this.afterNone, hasStep ? UNCHANGED : 0);
        return;
      }
      const step = this.stepFrom(last, high, low);
      if (step !== undefined) {
        if (hasStep) this.putMultiple(step);
        else {
          encoder.symbol(this.afterNone, shift);
          this.steps.put(0, step, 0);
          this.step[last] = step;
          this.extremes[last] = 0;
        }
        this.remember(high, low);
        return;
      }
      const other = [1, 2, 3].find((i) => this.stepFrom((last + i) & 3, high, low) !== undefined);
      if (other !== undefined) {
        encoder.symbol(hasStep ? this.multiples : this.afterNone, hasStep ? full + other : other + 1 + shift);
        this.last = (last + other) & 3;
        continue;
      }
      encoder.symbol(hasStep ? this.multiples : this.afterNone, hasStep ? full : 1 + shift);
      this.steps.put(this.high[last]!, high, 8);
      encoder.rawBits(16, low & 0xffff);
      encoder.rawBits(16, low >>> 16);
      this.next = (this.next + 1) & 3;
      this.last = this.next;
      this.step[this.last] = 0;
      this.extremes[this.last] = 0;
      this.remember(high, low);
      return;
    }
  }

  private putMultiple(step: number): void {
    const { last, encoder } = this;
    const lastStep = this.step[last]!;
    const ratio = Math.fround(Math.fround(step) / Math.fround(lastStep));
    const multiple = ratio >= 0 ? Math.floor(ratio + 0.5) : Math.ceil(ratio - 0.5);
    let isExtreme = false;
    if (multiple === 1) {
      encoder.symbol(this.multiples, 1);
      this.steps.put(lastStep, step, 1);
      this.extremes[last] = 0;
    } else if (multiple > 0 && multiple < MULTIPLES) {
      encoder.symbol(this.multiples, multiple);
      this.steps.put(Math.imul(multiple, lastStep), step, multiple < 10 ? 2 : 3);
    } else if (multiple >= MULTIPLES) {
      encoder.symbol(this.multiples, MULTIPLES);
      this.steps.put(Math.imul(MULTIPLES, lastStep), step, 4);
      isExtreme = true;
    } else if (multiple < 0 && multiple > LEAST_MULTIPLE) {
      encoder.symbol(this.multiples, MULTIPLES - multiple);
      this.steps.put(Math.imul(multiple, lastStep), step, 5);
    } else if (multiple <= LEAST_MULTIPLE) {
      encoder.symbol(this.multiples, MULTIPLES - LEAST_MULTIPLE);
      this.steps.put(Math.imul(LEAST_MULTIPLE, lastStep), step, 6);
      isExtreme = true;
    } else {
      encoder.symbol(this.multiples, 0);
      this.steps.put(0, step, 7);
      isExtreme = true;
    }
    if (isExtreme && ++this.extremes[last]! > 3) {
      this.step[last] = step;
      this.extremes[last] = 0;
    }
  }

  /** The step from a sequence's last time, where it fits in 32 bits. */
  private stepFrom(sequence: number, high: number, low: number): number | undefined {
    const step = (high - this.high[sequence]!) * 2 ** 32 + (low - this.low[sequence]!);
    return step >= -(2 ** 31) && step < 2 ** 31 ? step : undefined;
  }

  private remember(high: number, low: number): void {
    this.high[this.last] = high;
    this.low[this.last] = low;
  }
}
