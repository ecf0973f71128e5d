import { ArithmeticEncoder, IntegerEncoder } from './arithmetic-encoder.js';
import { SymbolModel } from './arithmetic-models.js';
import { ColourEncoder, folded } from './colour-encoder.js';
import { GpsTimeEncoder } from './gps-time-encoder.js';
import { ModelsByLast } from './models-by-last.js';
import { RunningMedian } from './running-median.js';

/**
 * Which of six contexts a return belongs to, by number of returns (row) and return number (column): the table of LASzip's
 * POINT14, version 3, as the decoder of the laz-perf library carries it.
 */
const RETURN_CONTEXT = [
  '0123453445555555',
  '1013333333333333',
  '2124444444433333',
  '3345444444444444',
  '4344544444444444',
  '5344454444444444',
  '3344445444444444',
  '4344444544444444',
  '4344444454444444',
  '5344444445444444',
  '5344444444544444',
  '5334444444455444',
  '5334444444455544',
  '5334444444445554',
  '5334444444444555',
  '5334444444444455',
].map((row) => Uint8Array.from(row, Number));

/** One layer: its bytes are left out where nothing in it ever changed. */
class Layer {
  readonly encoder = new ArithmeticEncoder();
  isChanged: boolean;
  constructor(isAlwaysWritten = false) {
    this.isChanged = isAlwaysWritten;
  }
  finish(): Uint8Array {
    return this.isChanged ? this.encoder.finish() : new Uint8Array(0);
  }
}

/** The nine layers of POINT14, in the order they are written. */
class PointLayers {
  readonly returnsXy = new Layer(true);
  readonly z = new Layer(true);
  readonly classes = new Layer();
  readonly flags = new Layer();
  readonly intensity = new Layer();
  readonly scanAngle = new Layer();
  readonly userData = new Layer();
  readonly source = new Layer();
  readonly gpsTime = new Layer();
  all(): Layer[] {
    return [
      this.returnsXy,
      this.z,
      this.classes,
      this.flags,
      this.intensity,
      this.scanAngle,
      this.userData,
      this.source,
      this.gpsTime,
    ];
  }
}

/** What is learnt of one scanner channel; it begins from the last point of the channel before. */
class Channel {
  readonly changed = Array.from({ length: 8 }, () => new SymbolModel(128));
  readonly channelStep = new SymbolModel(3);
  readonly returns = new ModelsByLast(16);
  readonly returnNumber = new ModelsByLast(16);
  readonly returnStep = new SymbolModel(13);
  readonly medianX = Array.from({ length: 12 }, () => new RunningMedian());
  readonly medianY = Array.from({ length: 12 }, () => new RunningMedian());
  readonly dx: IntegerEncoder;
  readonly dy: IntegerEncoder;
  readonly z: IntegerEncoder;
  readonly lastZ: Int32Array;
  readonly classes = new ModelsByLast();
  readonly flags = new ModelsByLast(64);
  readonly intensity: IntegerEncoder;
  readonly lastIntensity: Uint16Array;
  readonly scanAngle: IntegerEncoder;
  readonly userData = new ModelsByLast();
  readonly source: IntegerEncoder;
  readonly gpsTime: GpsTimeEncoder;
  /** The last record of this channel. */
  lastAt: number;
  didTimeChange = false;

  constructor(layers: PointLayers, view: DataView, at: number) {
    this.dx = new IntegerEncoder(layers.returnsXy.encoder, 32, 2);
    this.dy = new IntegerEncoder(layers.returnsXy.encoder, 32, 22);
    this.z = new IntegerEncoder(layers.z.encoder, 32, 20);
    this.intensity = new IntegerEncoder(layers.intensity.encoder, 16, 4);
    this.scanAngle = new IntegerEncoder(layers.scanAngle.encoder, 16, 2);
    this.source = new IntegerEncoder(layers.source.encoder, 16, 1);
    this.gpsTime = new GpsTimeEncoder(layers.gpsTime.encoder, view, at + 22, true);
    this.lastZ = new Int32Array(8).fill(view.getInt32(at + 8, true));
    this.lastIntensity = new Uint16Array(8).fill(view.getUint16(at + 12, true));
    this.lastAt = at;
  }
}

/** Codes the 30 bytes that formats 6 to 10 share: LASzip item POINT14, version 3. */
class Point14Encoder {
  private readonly layers = new PointLayers();
  private readonly channels: (Channel | undefined)[] = [];
  /** The scanner channel of the last point; the other items follow it. */
  channel: number;

  constructor(private readonly view: DataView) {
    this.channel = (view.getUint8(15) >> 4) & 3;
    this.channels[this.channel] = new Channel(this.layers, view, 0);
  }

  put(at: number): void {
    const { view, layers } = this;
    const before = this.channels[this.channel]!;
    const beforeReturns = view.getUint8(before.lastAt + 14);
    const changedContext =
      ((beforeReturns & 15) === 1 ? 1 : 0) +
      ((beforeReturns & 15) >= beforeReturns >> 4 ? 2 : 0) +
      (before.didTimeChange ? 4 : 0);
    const toChannel = (view.getUint8(at + 15) >> 4) & 3;
    const last = (this.channels[toChannel] ?? before).lastAt;

    const [returnNumber, returns] = [view.getUint8(at + 14) & 15, view.getUint8(at + 14) >> 4];
    const [lastReturn, lastReturns] = [view.getUint8(last + 14) & 15, view.getUint8(last + 14) >> 4];
    const source = view.getUint16(at + 20, true);
    const lastSource = view.getUint16(last + 20, true);
    const angle = view.getInt16(at + 18, true);
    const lastAngle = view.getInt16(last + 18, true);
    const isTimeNew =
      view.getUint32(at + 22, true) !== view.getUint32(last + 22, true) ||
      view.getUint32(at + 26, true) !== view.getUint32(last + 26, true);
    const returnChange =
      returnNumber === lastReturn
        ? 0
        : returnNumber === ((lastReturn + 1) & 15)
          ? 1
          : returnNumber === ((lastReturn + 15) & 15)
            ? 2
            : 3;
    const xy = layers.returnsXy.encoder;
    xy.symbol(
      before.changed[changedContext]!,
      (toChannel !== this.channel ? 64 : 0) |
        (source !== lastSource ? 32 : 0) |
        (isTimeNew ? 16 : 0) |
        (angle !== lastAngle ? 8 : 0) |
        (returns !== lastReturns ? 4 : 0) |
        returnChange,
    );
    if (toChannel !== this.channel) {
      xy.symbol(before.channelStep, (toChannel - this.channel + 4 - 1) & 3);
      this.channels[toChannel] ??= new Channel(layers, view, before.lastAt);
      this.channel = toChannel;
    }
    const now = this.channels[toChannel]!;
    if (returns !== lastReturns) xy.symbol(now.returns.for(lastReturns), returns);
    if (returnChange === 3) {
      if (isTimeNew) xy.symbol(now.returnNumber.for(lastReturn), returnNumber);
      else xy.symbol(now.returnStep, (returnNumber - lastReturn + 16 - 2) & 15);
    }

    const context = RETURN_CONTEXT[returns]![returnNumber]! * 2 + (isTimeNew ? 1 : 0);
    const single = returns === 1 ? 1 : 0;
    const stepX = (view.getInt32(at, true) - view.getInt32(last, true)) | 0;
    now.dx.put(now.medianX[context]!.value, stepX, single);
    now.medianX[context]!.add(stepX);
    const stepY = (view.getInt32(at + 4, true) - view.getInt32(last + 4, true)) | 0;
    const bitsX = now.dx.lastBits;
    now.dy.put(now.medianY[context]!.value, stepY, single + (bitsX < 20 ? bitsX & ~1 : 20));
    now.medianY[context]!.add(stepY);
    const level = Math.min(7, Math.abs(returns - returnNumber));
    const bits = (bitsX + now.dy.lastBits) >> 1;
    const z = view.getInt32(at + 8, true);
    now.z.put(now.lastZ[level]!, z, single + (bits < 18 ? bits & ~1 : 18));
    now.lastZ[level] = z;

    const place = (returnNumber === 1 ? 2 : 0) + (returnNumber >= returns ? 1 : 0);
    const code = view.getUint8(at + 16);
    const lastCode = view.getUint8(last + 16);
    if (code !== lastCode) layers.classes.isChanged = true;
    layers.classes.encoder.symbol(now.classes.for(((lastCode & 31) << 1) + (place === 3 ? 1 : 0)), code);

    const flags = flagBits(view.getUint8(at + 15));
    const lastFlags = flagBits(view.getUint8(last + 15));
    if (flags !== lastFlags) layers.flags.isChanged = true;
    layers.flags.encoder.symbol(now.flags.for(lastFlags), flags);

    const intensity = view.getUint16(at + 12, true);
    if (intensity !== view.getUint16(last + 12, true)) layers.intensity.isChanged = true;
    const intensityContext = place * 2 + (isTimeNew ? 1 : 0);
    now.intensity.put(now.lastIntensity[intensityContext]!, intensity, place);
    now.lastIntensity[intensityContext] = intensity;

    if (angle !== lastAngle) {
      layers.scanAngle.isChanged = true;
      now.scanAngle.put(lastAngle, angle, isTimeNew ? 1 : 0);
    }
    const userData = view.getUint8(at + 17);
    const lastUserData = view.getUint8(last + 17);
    if (userData !== lastUserData) layers.userData.isChanged = true;
    layers.userData.encoder.symbol(now.userData.for(lastUserData >> 2), userData);
    if (source !== lastSource) {
      layers.source.isChanged = true;
      now.source.put(lastSource, source, 0);
    }
    if (isTimeNew) {
      layers.gpsTime.isChanged = true;
      now.gpsTime.put(view, at + 22);
    }
    now.lastAt = at;
    now.didTimeChange = isTimeNew;
  }

  finish(): Uint8Array[] {
    return this.layers.all().map((layer) => layer.finish());
  }
}

/** Flags, scan direction and edge of flight line as the six bits that are coded; the scanner channel is told apart. */
function flagBits(byte: number): number {
  return (byte & 15) | ((byte & 0xc0) >> 2);
}

/** RGB14, version 3, and, with near infrared, RGBNIR14. */
class Colour14Encoder {
  private readonly colour = new Layer();
  private readonly infrared = new Layer();
  private readonly colours = new ColourEncoder(this.colour.encoder);
  private readonly infraredUsed = new SymbolModel(4);
  private readonly infraredBytes = [new SymbolModel(256), new SymbolModel(256)];

  constructor(
    private readonly view: DataView,
    private readonly rgbAt: number,
    private readonly hasInfrared: boolean,
  ) {}

  put(at: number, lastAt: number): void {
    const { view, rgbAt } = this;
    if (this.colours.put(view, at + rgbAt, view, lastAt + rgbAt)) this.colour.isChanged = true;
    if (!this.hasInfrared) return;
    const { encoder } = this.infrared;
    const [low, high] = [6, 7].map((i) => view.getUint8(at + rgbAt + i) - view.getUint8(lastAt + rgbAt + i)) as [
      number,
      number,
    ];
    encoder.symbol(this.infraredUsed, (low !== 0 ? 1 : 0) | (high !== 0 ? 2 : 0));
    if (low !== 0) encoder.symbol(this.infraredBytes[0]!, folded(low));
    if (high !== 0) encoder.symbol(this.infraredBytes[1]!, folded(high));
    if (low !== 0 || high !== 0) this.infrared.isChanged = true;
  }

  finish(): Uint8Array[] {
    return [this.colour.finish(), ...(this.hasInfrared ? [this.infrared.finish()] : [])];
  }
}

/** BYTE14, version 3: a layer for each extra byte. */
class ExtraBytes14Encoder {
  private readonly layers: Layer[];
  private readonly models: SymbolModel[];

  constructor(
    private readonly view: DataView,
    private readonly from: number,
    private readonly length: number,
  ) {
    this.layers = Array.from({ length }, () => new Layer());
    this.models = Array.from({ length }, () => new SymbolModel(256));
  }

  put(at: number, lastAt: number): void {
    for (let i = 0; i < this.length; i++) {
      const step = this.view.getUint8(at + this.from + i) - this.view.getUint8(lastAt + this.from + i);
      this.layers[i]!.encoder.symbol(this.models[i]!, folded(step));
      if (step !== 0) this.layers[i]!.isChanged = true;
    }
  }

  finish(): Uint8Array[] {
    return this.layers.map((layer) => layer.finish());
  }
}

/** Bits 4 and 5 of the flags of a record of formats 6 to 10. */
export function scannerChannel(records: Uint8Array, at: number): number {
  return (records[at + 15]! >> 4) & 3;
}

/** Where the parts of a record of formats 6 to 8 lie, if there are any beside the point itself. */
export interface LazLayeredParts {
  readonly rgbAt?: number;
  readonly hasNearInfrared?: boolean;
  readonly extraBytesAt?: number;
}

/**
 * Compresses one chunk of records of formats 6 to 8 in layers, as LASzip 3 does: the first record as it is, the number of
 * points, the layers' lengths, the layers. Where a record has more than the point itself (colours, extra bytes), all must
 * be of one scanner channel: versions of the format and decoders differ in what they take for the last colour when the
 * channel changes. After Isenburg's "LASzip" (compressor 3, items of version 3) and the LAZ 1.4
 * description that came with it.
 */
export function encodeLayeredLazChunk(records: Uint8Array, recordLength: number, parts: LazLayeredParts): Uint8Array {
  const view = new DataView(records.buffer, records.byteOffset, records.byteLength);
  const points = new Point14Encoder(view);
  const { rgbAt, extraBytesAt } = parts;
  const items = [
    ...(rgbAt === undefined ? [] : [new Colour14Encoder(view, rgbAt, parts.hasNearInfrared === true)]),
    ...(extraBytesAt === undefined ? [] : [new ExtraBytes14Encoder(view, extraBytesAt, recordLength - extraBytesAt)]),
  ];
  for (let at = recordLength; at < records.length; at += recordLength) {
    points.put(at);
    for (const item of items) item.put(at, at - recordLength);
  }
  const layers = [...points.finish(), ...items.flatMap((item) => item.finish())];
  const bodyAt = recordLength + 4 + layers.length * 4;
  const chunk = new Uint8Array(layers.reduce((sum, layer) => sum + layer.length, bodyAt));
  const head = new DataView(chunk.buffer);
  chunk.set(records.subarray(0, recordLength));
  head.setUint32(recordLength, records.length / recordLength, true);
  let to = bodyAt;
  layers.forEach((layer, i) => {
    head.setUint32(recordLength + 4 + i * 4, layer.length, true);
    chunk.set(layer, to);
    to += layer.length;
  });
  return chunk;
}
