import { ArithmeticEncoder, IntegerEncoder } from './arithmetic-encoder.js';
import { SymbolModel } from './arithmetic-models.js';
import { ColourEncoder, folded } from './colour-encoder.js';
import { GpsTimeEncoder } from './gps-time-encoder.js';
import { ModelsByLast } from './models-by-last.js';
import { RunningMedian } from './running-median.js';

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
    if (colours) colours.put(view, at + parts.rgbAt!, view, at - recordLength + parts.rgbAt!);
    if (extra) extra.put(view, at + parts.extraBytesAt!, at - recordLength + parts.extraBytesAt!);
  }
  const coded = records.length > recordLength ? encoder.finish() : new ArithmeticEncoder().finish();
  const chunk = new Uint8Array(recordLength + coded.length);
  chunk.set(records.subarray(0, recordLength));
  chunk.set(coded, recordLength);
  return chunk;
}
