import type { VariableLengthRecord } from './variable-length-record.js';

/** An attribute kept in a point's extra bytes: LAS 1.4 R15, table 24. */
export interface ExtraDimension {
  readonly name: string;
  /** 1 to 10: unsigned and signed 8, 16, 32 and 64 bits, float, double. */
  readonly type: number;
  /** Where in the extra bytes it begins. */
  readonly at: number;
  readonly scale: number;
  readonly shift: number;
}

const RECORD_ID = 4;
const USER_ID = 'LASF_Spec';
const DESCRIPTOR_LENGTH = 192;
const SIZES = [0, 1, 1, 2, 2, 4, 4, 8, 8, 4, 8] as const;
const FLOAT = 9;
/** Bits of a descriptor's options: scale and offset are given. */
const HAS_SCALE = 8;
const HAS_OFFSET = 16;

/** The attributes that a file's records describe; those of a type that is not known end the list, since what follows them cannot be placed. */
export function readExtraDimensions(
  records: readonly Pick<VariableLengthRecord, 'userId' | 'recordId' | 'data'>[],
): ExtraDimension[] {
  const record = records.find(({ userId, recordId }) => userId === USER_ID && recordId === RECORD_ID);
  if (!record) return [];
  const { data } = record;
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const dimensions: ExtraDimension[] = [];
  let at = 0;
  for (let start = 0; start + DESCRIPTOR_LENGTH <= data.length; start += DESCRIPTOR_LENGTH) {
    const type = data[start + 2]!;
    const options = data[start + 3]!;
    if (type === 0) {
      // Bytes nobody describes: so many as the options say.
      at += options;
      continue;
    }
    if (type >= SIZES.length) break;
    let name = '';
    for (let i = start + 4; i < start + 36 && data[i] !== 0; i++) name += String.fromCharCode(data[i]!);
    dimensions.push({
      name: name.trim(),
      type,
      at,
      scale: options & HAS_SCALE ? view.getFloat64(start + 112, true) : 1,
      shift: options & HAS_OFFSET ? view.getFloat64(start + 136, true) : 0,
    });
    at += SIZES[type]!;
  }
  return dimensions;
}

/** A record that describes one 32-bit float in the extra bytes. */
export function floatDimensionRecord(name: string, description: string): VariableLengthRecord {
  return floatDimensionsRecord([[name, description]]);
}

/** ... or several, one after another. */
export function floatDimensionsRecord(
  dimensions: readonly (readonly [name: string, description: string])[],
): VariableLengthRecord {
  const data = new Uint8Array(DESCRIPTOR_LENGTH * dimensions.length);
  dimensions.forEach(([name, description], k) => {
    const at = k * DESCRIPTOR_LENGTH;
    data[at + 2] = FLOAT;
    for (let i = 0; i < Math.min(32, name.length); i++) data[at + 4 + i] = name.charCodeAt(i);
    for (let i = 0; i < Math.min(32, description.length); i++) data[at + 160 + i] = description.charCodeAt(i);
  });
  return { userId: USER_ID, recordId: RECORD_ID, description: 'extra bytes', data };
}

/** Attributes that are made use of, by what they are called in files. Common practice, no source. */
const KNOWN_NAMES = {
  /** How sure the source is of a point. */
  confidence: /^(scalar_)?(confidence|quality|reliability|confianza|calidad)$/i,
  /** Standard deviation of a point's elevation, in the unit of the coordinates. */
  accuracy: /^(scalar_)?(height|vertical|z)[ _]?(accuracy|uncertainty|sigma|std)$/i,
} as const;
export type KnownDimension = keyof typeof KNOWN_NAMES;
export const KNOWN_DIMENSIONS = Object.keys(KNOWN_NAMES) as readonly KnownDimension[];

/** Where those that are made use of lie, of a file's own. */
export function knownDimensions(
  dimensions: readonly ExtraDimension[],
): Partial<Record<KnownDimension, ExtraDimension>> {
  return Object.fromEntries(
    KNOWN_DIMENSIONS.flatMap((known) => {
      const found = dimensions.find(({ name }) => KNOWN_NAMES[known].test(name));
      return found ? [[known, found]] : [];
    }),
  );
}

export function isConfidenceName(name: string): boolean {
  return KNOWN_NAMES.confidence.test(name);
}

/** The values of a dimension. */
export function extraValues(
  dimension: ExtraDimension,
  extraBytes: Uint8Array,
  stride: number,
  count: number,
): Float32Array {
  const { type, at, scale, shift } = dimension;
  const out = new Float32Array(count);
  if (at + SIZES[type]! > stride) return out.fill(NaN);
  const view = new DataView(extraBytes.buffer, extraBytes.byteOffset, extraBytes.byteLength);
  const get = (p: number): number => {
    switch (type) {
      case 1:
        return view.getUint8(p);
      case 2:
        return view.getInt8(p);
      case 3:
        return view.getUint16(p, true);
      case 4:
        return view.getInt16(p, true);
      case 5:
        return view.getUint32(p, true);
      case 6:
        return view.getInt32(p, true);
      case 7:
        return Number(view.getBigUint64(p, true));
      case 8:
        return Number(view.getBigInt64(p, true));
      case FLOAT:
        return view.getFloat32(p, true);
      default:
        return view.getFloat64(p, true);
    }
  };
  for (let i = 0, p = at; i < count; i++, p += stride) out[i] = get(p) * scale + shift;
  return out;
}
