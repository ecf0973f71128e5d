import { XMLParser } from 'fast-xml-parser';
import { FormatError } from '../format-error.js';

/** How values of a field lie in their bytes. */
export type E57Encoding =
  | { readonly kind: 'float'; readonly bytes: 4 | 8 }
  | {
      readonly kind: 'integer';
      readonly minimum: number;
      readonly maximum: number;
      readonly bits: number;
      readonly scale: number;
      readonly offset: number;
    };

export interface E57Field {
  readonly name: string;
  readonly encoding: E57Encoding;
}

/** A scan: where its points lie and how to bring them into the file's system. */
export interface E57Scan {
  readonly name: string;
  readonly recordCount: number;
  /** Physical place of its binary section. */
  readonly at: number;
  readonly fields: readonly E57Field[];
  /** Rotation, row by row, and translation. */
  readonly rotation: readonly number[] | undefined;
  readonly translation: readonly [number, number, number];
  readonly intensityLimits: readonly [number, number] | undefined;
  readonly colourLimits: readonly [number, number] | undefined;
  /** GPS seconds since 6 January 1980 that times are counted from. */
  readonly start: number;
}

type XmlNode = Readonly<Record<string, unknown>>;

const RECORD_FIELDS = 'recordFields';
const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: '#',
  parseTagValue: false,
  parseAttributeValue: false,
  isArray: (name) => name === 'vectorChild',
  // The parser refuses the name "prototype", for good reasons of its own.
  transformTagName: (name) => (name === 'prototype' ? RECORD_FIELDS : name),
});

/**
 * Reads the XML section of an E57 file (ASTM E2807-11, section 8).
 * @throws FormatError where it is no XML of that kind
 */
export function readE57Xml(xml: string, fileName: string): { scans: E57Scan[]; crs: string; software: string } {
  const where = `${fileName}, XML section`;
  let root: XmlNode | undefined;
  try {
    root = (parser.parse(xml) as { e57Root?: XmlNode }).e57Root;
  } catch (error) {
    throw wrong(`The XML cannot be read: ${(error as Error).message}.`, where);
  }
  if (!root || typeof root !== 'object') throw wrong('The XML has no e57Root.', where);
  const list = children(child(root, 'data3D'));
  return {
    scans: list.map((scan, i) => readScan(scan, `${where}, scan ${i + 1}`, i)),
    crs: text(root, 'coordinateMetadata') ?? '',
    software: text(root, 'e57LibraryVersion') ?? '',
  };
}

function readScan(scan: XmlNode, where: string, index: number): E57Scan {
  const points = child(scan, 'points');
  const at = Number(points?.['@fileOffset']);
  const recordCount = Number(points?.['@recordCount']);
  const prototype = child(points, RECORD_FIELDS);
  if (!prototype || !Number.isSafeInteger(at) || !Number.isSafeInteger(recordCount) || recordCount < 0)
    throw wrong('The points have no prototype, place or count.', where);
  const fields = Object.entries(prototype)
    .filter(([name]) => !name.startsWith('@') && name !== '#')
    .map(([name, field]) => ({ name, encoding: encodingOf(field, `${where}, ${name}`) }));
  const pose = child(scan, 'pose');
  const rotation = child(pose, 'rotation');
  const translation = child(pose, 'translation');
  return {
    name: text(scan, 'name') ?? `Scan ${index + 1}`,
    recordCount,
    at,
    fields,
    rotation: rotation && rotationOf(['w', 'x', 'y', 'z'].map((axis) => number(rotation, axis) ?? 0)),
    translation: ['x', 'y', 'z'].map((axis) => (translation ? (number(translation, axis) ?? 0) : 0)) as [
      number,
      number,
      number,
    ],
    intensityLimits: limits(child(scan, 'intensityLimits'), 'intensityMinimum', 'intensityMaximum'),
    colourLimits: limits(child(scan, 'colorLimits'), 'colorRedMinimum', 'colorRedMaximum'),
    start: number(child(scan, 'acquisitionStart') ?? {}, 'dateTimeValue') ?? 0,
  };
}

function encodingOf(given: unknown, where: string): E57Encoding {
  const field = (typeof given === 'object' && given !== null ? given : {}) as XmlNode;
  const of = (name: string, otherwise: number): number =>
    field[`@${name}`] === undefined ? otherwise : Number(field[`@${name}`]);
  switch (field['@type']) {
    case 'Float':
      return { kind: 'float', bytes: field['@precision'] === 'single' ? 4 : 8 };
    case 'Integer':
    case 'ScaledInteger': {
      const isScaled = field['@type'] === 'ScaledInteger';
      const [minimum, maximum] = [of('minimum', -(2 ** 63)), of('maximum', 2 ** 63)];
      const [scale, offset] = isScaled ? [of('scale', 1), of('offset', 0)] : [1, 0];
      const span = maximum - minimum;
      if (!(span >= 0) || !Number.isFinite(scale) || !Number.isFinite(offset))
        throw wrong(`Its range ${minimum} to ${maximum}, scale ${scale}, offset ${offset} cannot be.`, where);
      const bits = span === 0 ? 0 : span >= 2 ** 52 ? 64 : Math.floor(Math.log2(span)) + 1;
      return { kind: 'integer', minimum, maximum, bits, scale, offset };
    }
    default:
      throw wrong(`The type "${String(field['@type'])}" is not one that points can have.`, where);
  }
}

/** Unit quaternion to matrix, row by row. */
function rotationOf([w, x, y, z]: readonly number[]): number[] | undefined {
  const length = Math.hypot(w!, x!, y!, z!);
  if (!(length > 0)) return undefined;
  const [a, b, c, d] = [w! / length, x! / length, y! / length, z! / length];
  return [
    a * a + b * b - c * c - d * d,
    2 * (b * c - a * d),
    2 * (b * d + a * c),
    2 * (b * c + a * d),
    a * a - b * b + c * c - d * d,
    2 * (c * d - a * b),
    2 * (b * d - a * c),
    2 * (c * d + a * b),
    a * a - b * b - c * c + d * d,
  ];
}

function limits(node: XmlNode | undefined, low: string, high: string): [number, number] | undefined {
  const [least, most] = [node && number(node, low), node && number(node, high)];
  return least !== undefined && most !== undefined && most > least ? [least, most] : undefined;
}

function child(node: XmlNode | undefined, name: string): XmlNode | undefined {
  const found = node?.[name];
  return typeof found === 'object' && found !== null && !Array.isArray(found) ? (found as XmlNode) : undefined;
}

function children(node: XmlNode | undefined): XmlNode[] {
  const found = node?.['vectorChild'];
  return Array.isArray(found) ? found.filter((c): c is XmlNode => typeof c === 'object' && c !== null) : [];
}

function text(node: XmlNode, name: string): string | undefined {
  const found = node[name];
  if (typeof found === 'string') return found.trim() || undefined;
  const inner = typeof found === 'object' && found !== null ? (found as XmlNode)['#'] : undefined;
  return typeof inner === 'string' ? inner.trim() || undefined : undefined;
}

/** A number in a node's text; an element without text is 0, as the standard has it; a scaled one is multiplied out. */
function number(node: XmlNode, name: string): number | undefined {
  const found = node[name];
  if (found === undefined) return undefined;
  const raw = Number(text(node, name) ?? '0');
  const attributes = typeof found === 'object' && found !== null ? (found as XmlNode) : {};
  const value =
    attributes['@type'] === 'ScaledInteger'
      ? raw * Number(attributes['@scale'] ?? 1) + Number(attributes['@offset'] ?? 0)
      : raw;
  return Number.isFinite(value) ? value : undefined;
}

function wrong(what: string, where: string): FormatError {
  return new FormatError('not-this-format', { what, where, fix: 'Export the scans again, as E57 or as LAS.' });
}
