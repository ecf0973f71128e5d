import { FormatError } from './format-error.js';

export type FieldType =
  'uint8' | 'int8' | 'uint16' | 'int16' | 'uint32' | 'int32' | 'uint64' | 'float64' | `ascii${number}`;

export interface Field {
  readonly name: string;
  readonly at: number;
  readonly type: FieldType;
}

type FieldValue<T extends FieldType> = T extends `ascii${number}` ? string : number;
export type RecordOf<F extends readonly Field[]> = { [K in F[number] as K['name']]: FieldValue<K['type']> };

/** Little-endian reads that check every access against the bytes there are. */
export class ByteCursor {
  private readonly view: DataView;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly title: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  read(field: Field): number | string {
    const { at, type } = field;
    const length = byteLengthOf(type);
    if (at + length > this.bytes.length) {
      throw new FormatError('file-ends-early', {
        what: `${field.name} needs bytes ${at}-${at + length - 1}, the record ends at ${this.bytes.length}.`,
        where: this.title,
        fix: 'The file is cut short: copy or export it again.',
      });
    }
    switch (type) {
      case 'uint8':
        return this.view.getUint8(at);
      case 'int8':
        return this.view.getInt8(at);
      case 'uint16':
        return this.view.getUint16(at, true);
      case 'int16':
        return this.view.getInt16(at, true);
      case 'uint32':
        return this.view.getUint32(at, true);
      case 'int32':
        return this.view.getInt32(at, true);
      case 'uint64':
        // Beyond 2^53 the number is rounded; every use compares it with the file's size, which it then exceeds anyway.
        return Number(this.view.getBigUint64(at, true));
      case 'float64':
        return this.view.getFloat64(at, true);
      default:
        return asciiText(this.bytes.subarray(at, at + length));
    }
  }
}

export function byteLengthOf(type: FieldType): number {
  if (type.startsWith('ascii')) return Number(type.slice(5));
  return { uint8: 1, int8: 1, uint16: 2, int16: 2, uint32: 4, int32: 4, uint64: 8, float64: 8 }[
    type as Exclude<FieldType, `ascii${number}`>
  ];
}

/** Text up to the first zero byte; bytes outside printable ASCII become "?". */
export function asciiText(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) {
    if (byte === 0) break;
    text += byte >= 32 && byte < 127 ? String.fromCharCode(byte) : '?';
  }
  return text;
}

/** Reads every field of a layout table. */
export function readRecord<const F extends readonly Field[]>(bytes: Uint8Array, fields: F, title: string): RecordOf<F> {
  const cursor = new ByteCursor(bytes, title);
  return Object.fromEntries(fields.map((field) => [field.name, cursor.read(field)])) as RecordOf<F>;
}

/** Writes the values of a layout table into `bytes`; text is cut to its field and padded with zeros. */
export function writeRecord<const F extends readonly Field[]>(bytes: Uint8Array, fields: F, values: RecordOf<F>): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (const { name, at, type } of fields) {
    const value = (values as Record<string, number | string>)[name]!;
    if (typeof value === 'string') {
      for (let i = 0; i < byteLengthOf(type); i++) bytes[at + i] = i < value.length ? value.charCodeAt(i) & 0x7f : 0;
    } else if (type === 'uint64') view.setBigUint64(at, BigInt(value), true);
    else if (type === 'float64') view.setFloat64(at, value, true);
    else if (type === 'uint32' || type === 'int32') view.setUint32(at, value >>> 0, true);
    else if (type === 'uint16' || type === 'int16') view.setUint16(at, value & 0xffff, true);
    else view.setUint8(at, value & 0xff);
  }
}
