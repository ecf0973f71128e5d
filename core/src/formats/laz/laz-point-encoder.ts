import { ArithmeticEncoder, IntegerEncoder } from './arithmetic-encoder.js';
import { SymbolModel } from './arithmetic-models.js';

/** Which of 16 contexts a return belongs to, by number of returns and return number; LASzip's table for POINT10 version 2. */
const RETURN_CONTEXT = [
  [15, 14, 13, 12, 11, 10, 9, 8],
  [14, 0, 1, 3, 6, 10, 10, 9],
  [13, 1, 2, 4, 7, 11, 11, 10],
  [12, 3, 4, 5, 8, 12, 12, 11],
  [11, 6, 7, 8, 9, 13, 13, 12],
  [10, 10, 11, 12, 13, 14, 14, 13],
  [9, 10, 11, 12, 13, 14, 15, 14],
  [8, 9, 10, 11, 12, 13, 14, 15],
] as const;

const folded = (value: number): number => value & 255;
const clamped = (value: number): number => (value < 0 ? 0 : value > 255 ? 255 : value);

/** The median of the last five numbers or so, kept on the way as LASzip keeps it. */
class RunningMedian {
  private readonly v = new Int32Array(5);
  private isHigh = true;

  get value(): number {
    return this.v[2]!;
  }

  add(value: number): void {
    const { v } = this;
    if (this.isHigh) {
      if (value < v[2]!) {
        v[4] = v[3]!;
        v[3] = v[2]!;
        if (value < v[0]!) {
          v[2] = v[1]!;
          v[1] = v[0]!;
          v[0] = value;
        } else if (value < v[1]!) {
          v[2] = v[1]!;
          v[1] = value;
        } else v[2] = value;
      } else {
        if (value < v[3]!) {
          v[4] = v[3]!;
          v[3] = value;
        } else v[4] = value;
        this.isHigh = false;
      }
    } else if (v[2]! < value) {
      v[0] = v[1]!;
      v[1] = v[2]!;
      if (v[4]! < value) {
        v[2] = v[3]!;
        v[3] = v[4]!;
        v[4] = value;
      } else if (v[3]! < value) {
        v[2] = v[3]!;
        v[3] = value;
      } else v[2] = value;
    } else {
      if (v[1]! < value) {
        v[0] = v[1]!;
        v[1] = value;
      } else v[0] = value;
      this.isHigh = true;
    }
  }
}

/** Symbol models by the value before, made when first met. */
class ModelsByLast {
  private readonly models: (SymbolModel | undefined)[] = [];
  for(last: number): SymbolModel {
    return (this.models[last] ??= new SymbolModel(256));
  }
}

/** Codes the 20 bytes that formats 0 to 3 share: LASzip item POINT10, version 2. */
class Point10Encoder {
  private readonly changed = new SymbolModel(64);
  private readonly flags = new ModelsByLast();
  private readonly classes = new ModelsByLast();
  private readonly userData = new ModelsByLast();
  private readonly scanAngles = [new SymbolModel(256), new SymbolModel(256)];
  private readonly intensity: IntegerEncoder;
  private readonly source: IntegerEncoder;
  private readonly dx: IntegerEncoder;
  private readonly dy: IntegerEncoder;
  private readonly z: IntegerEncoder;
  private readonly lastIntensity = new Uint16Array(16);
  private readonly medianX = Array.from({ length: 16 }, () => new RunningMedian());
  private readonly medianY = Array.from({ length: 16 }, () => new RunningMedian());
  private readonly lastHeight = new Int32Array(8);

  constructor(private readonly encoder: ArithmeticEncoder) {
    this.intensity = new IntegerEncoder(encoder, 16, 4);
    this.source = new IntegerEncoder(encoder, 16, 1);
    this.dx = new IntegerEncoder(encoder, 32, 2);
    this.dy = new IntegerEncoder(encoder, 32, 22);
    this.z = new IntegerEncoder(encoder, 32, 20);
  }

  put(view: DataView, at: number, last: number): void {
    const { encoder } = this;
    const byte = (offset: number): number => view.getUint8(at + offset);
    const was = (offset: number): number => view.getUint8(last + offset);
    const returnNumber = byte(14) & 7;
    const returns = (byte(14) >> 3) & 7;
    const context = RETURN_CONTEXT[returns]![returnNumber]!;
    const level = Math.abs(returns - returnNumber);
    const intensity = view.getUint16(at + 12, true);
    const source = view.getUint16(at + 18, true);
    const lastSource = view.getUint16(last + 18, true);
    const changed =
      (byte(14) !== was(14) ? 32 : 0) |
      (intensity !== this.lastIntensity[context] ? 16 : 0) |
      (byte(15) !== was(15) ? 8 : 0) |
      (byte(16) !== was(16) ? 4 : 0) |
      (byte(17) !== was(17) ? 2 : 0) |
      (source !== lastSource ? 1 : 0);
    encoder.symbol(this.changed, changed);
    if (changed & 32) encoder.symbol(this.flags.for(was(14)), byte(14));
    if (changed & 16) {
      this.intensity.put(this.lastIntensity[context]!, intensity, Math.min(context, 3));
      this.lastIntensity[context] = intensity;
    }
    if (changed & 8) encoder.symbol(this.classes.for(was(15)), byte(15));
    if (changed & 4) encoder.symbol(this.scanAngles[(byte(14) >> 6) & 1]!, folded(byte(16) - was(16)));
    if (changed & 2) encoder.symbol(this.userData.for(was(17)), byte(17));
    if (changed & 1) this.source.put(lastSource, source, 0);

    const single = returns === 1 ? 1 : 0;
    const stepX = (view.getInt32(at, true) - view.getInt32(last, true)) | 0;
    this.dx.put(this.medianX[context]!.value, stepX, single);
    this.medianX[context]!.add(stepX);
    const stepY = (view.getInt32(at + 4, true) - view.getInt32(last + 4, true)) | 0;
    const bitsX = this.dx.lastBits;
    this.dy.put(this.medianY[context]!.value, stepY, single + (bitsX < 20 ? bitsX & ~1 : 20));
    this.medianY[context]!.add(stepY);
    const bits = (bitsX + this.dy.lastBits) >> 1;
    const height = view.getInt32(at + 8, true);
    this.z.put(this.lastHeight[level]!, height, single + (bits < 18 ? bits & ~1 : 18));
    this.lastHeight[level] = height;
  }
}

const MULTIPLES = 500;
const LEAST_MULTIPLE = -10;
const UNCHANGED = MULTIPLES - LEAST_MULTIPLE + 1;
const FULL = UNCHANGED + 1;
const MULTIPLE_SYMBOLS = MULTIPLES - LEAST_MULTIPLE + 6;

/** Codes GPS times as whole multiples of the last step: LASzip item GPSTIME11, version 2. */
class GpsTimeEncoder {
  private readonly multiples = new SymbolModel(MULTIPLE_SYMBOLS);
  private readonly afterNone = new SymbolModel(6);
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
  ) {
    this.steps = new IntegerEncoder(encoder, 32, 9);
    this.low[0] = view.getUint32(first, true);
    this.high[0] = view.getInt32(first + 4, true);
  }

  put(view: DataView, at: number): void {
    const low = view.getUint32(at, true);
    const high = view.getInt32(at + 4, true);
    for (;;) {
      const { last, encoder } = this;
      const hasStep = this.step[last] !== 0;
      if (low === this.low[last] && high === this.high[last]) {
        encoder.symbol(hasStep ? this.multiples : this.afterNone, hasStep ? UNCHANGED : 0);
        return;
      }
      const step = this.stepFrom(last, high, low);
      if (step !== undefined) {
        if (hasStep) this.putMultiple(step);
        else {
          encoder.symbol(this.afterNone, 1);
          this.steps.put(0, step, 0);
          this.step[last] = step;
          this.extremes[last] = 0;
        }
        this.remember(high, low);
        return;
      }
      const other = [1, 2, 3].find((i) => this.stepFrom((last + i) & 3, high, low) !== undefined);
      if (other !== undefined) {
        encoder.symbol(hasStep ? this.multiples : this.afterNone, hasStep ? FULL + other : other + 2);
        this.last = (last + other) & 3;
        continue;
      }
      encoder.symbol(hasStep ? this.multiples : this.afterNone, hasStep ? FULL : 2);
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

/** Codes colours byte by byte: LASzip item RGB12, version 2. */
class ColourEncoder {
  private readonly used = new SymbolModel(128);
  private readonly bytes = Array.from({ length: 6 }, () => new SymbolModel(256));

  constructor(private readonly encoder: ArithmeticEncoder) {}

  put(view: DataView, at: number, last: number): void {
    const { encoder, bytes } = this;
    const now = (i: number): number => view.getUint8(at + i);
    const was = (i: number): number => view.getUint8(last + i);
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
    if (!(used & 64)) return;
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
  }
}

/** Codes extra bytes, each as its difference from the last: LASzip item BYTE, version 2. */
class ExtraBytesEncoder {
  private readonly models: SymbolModel[];

  constructor(
    private readonly encoder: ArithmeticEncoder,
    private readonly length: number,
  ) {
    this.models = Array.from({ length }, () => new SymbolModel(256));
  }

  put(view: DataView, at: number, last: number): void {
    for (let i = 0; i < this.length; i++)
      this.encoder.symbol(this.models[i]!, folded(view.getUint8(at + i) - view.getUint8(last + i)));
  }
}

/** Where the parts of a record lie that not all formats have. */
export interface LazRecordParts {
  readonly gpsTimeAt?: number;
  readonly rgbAt?: number;
  readonly extraBytesAt?: number;
}

/**
 * Compresses one chunk of records of formats 0 to 3, as LASzip does pointwise: the first point as it
 * is, the others as differences. After Isenburg 2013, "LASzip: lossless compression of lidar data", PE&RS 79(2).
 */
export function encodeLazChunk(records: Uint8Array, recordLength: number, parts: LazRecordParts): Uint8Array {
  const view = new DataView(records.buffer, records.byteOffset, records.byteLength);
  const encoder = new ArithmeticEncoder();
  const points = new Point10Encoder(encoder);
  const times = parts.gpsTimeAt === undefined ? undefined : new GpsTimeEncoder(encoder, view, parts.gpsTimeAt);
  const colours = parts.rgbAt === undefined ? undefined : new ColourEncoder(encoder);
  const extra =
    parts.extraBytesAt === undefined ? undefined : new ExtraBytesEncoder(encoder, recordLength - parts.extraBytesAt);
  for (let at = recordLength; at < records.length; at += recordLength) {
    points.put(view, at, at - recordLength);
    if (times) times.put(view, at + parts.gpsTimeAt!);
    if (colours) colours.put(view, at + parts.rgbAt!, at - recordLength + parts.rgbAt!);
    if (extra) extra.put(view, at + parts.extraBytesAt!, at - recordLength + parts.extraBytesAt!);
  }
  const coded = records.length > recordLength ? encoder.finish() : new ArithmeticEncoder().finish();
  const chunk = new Uint8Array(recordLength + coded.length);
  chunk.set(records.subarray(0, recordLength));
  chunk.set(coded, recordLength);
  return chunk;
}
