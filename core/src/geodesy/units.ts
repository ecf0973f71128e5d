import { readTypedNumber, typedNumberFault } from './typed-number.js';

/** The three lengths a survey can be in. They are never confused: 2 ppm is 11 m at an easting of 5 512 000. */
export type LengthUnit = 'metre' | 'us-survey-foot' | 'international-foot';

interface UnitFacts {
  readonly metres: number;
  readonly short: string;
  readonly name: string;
  /** EPSG code of the unit of measure. */
  readonly epsg: number;
}

/** US survey foot 1200/3937 m; international foot 0.3048 m exactly (EPSG units of measure 9003 and 9002). */
export const lengthUnits: Readonly<Record<LengthUnit, UnitFacts>> = {
  metre: { metres: 1, short: 'm', name: 'metres', epsg: 9001 },
  'us-survey-foot': { metres: 1200 / 3937, short: 'ftUS', name: 'US survey feet', epsg: 9003 },
  'international-foot': { metres: 0.3048, short: 'ft', name: 'international feet', epsg: 9002 },
};

/** Metres in one of the unit. */
export function metresPer(unit: LengthUnit): number {
  return lengthUnits[unit].metres;
}

/** The unit with this EPSG code, if it is one of the three. */
export function unitForEpsg(code: number): LengthUnit | undefined {
  return (Object.keys(lengthUnits) as LengthUnit[]).find((unit) => lengthUnits[unit].epsg === code);
}

/** Reads the ways files and people spell the three units; `undefined` for anything else. */
export function unitFromName(name: string): LengthUnit | undefined {
  const word = name
    .trim()
    .toLowerCase()
    .replace(/[\s_-]+/g, ' ');
  if (['m', 'metre', 'metres', 'meter', 'meters'].includes(word)) return 'metre';
  if (/^(us|u\.s\.)? ?(survey )?(ft|foot|feet)( us)?$|^ftus$|^foot_us$/.test(word))
    return /us|survey/.test(word) ? 'us-survey-foot' : 'international-foot';
  if (/^(international )?(ft|foot|feet)$/.test(word)) return 'international-foot';
  return undefined;
}

const TYPED_UNITS: readonly (readonly [RegExp, (unit: LengthUnit) => number])[] = [
  [/^(mm|millimet(re|er)s?)$/, () => 0.001],
  [/^(cm|centimet(re|er)s?)$/, () => 0.01],
  [/^(m|met(re|er)s?)$/, () => 1],
  [/^(km|kilomet(re|er)s?)$/, () => 1000],
  [/^(ftus|us ?ft|us survey (foot|feet))$/, () => 1200 / 3937],
  // A bare "ft" typed into a job in US survey feet means that job's foot; anywhere else the international one.
  [/^(ft|foot|feet|')$/, (unit) => (unit === 'us-survey-foot' ? 1200 / 3937 : 0.3048)],
  [/^(in|inch|inches|"|″)$/, (unit) => (unit === 'us-survey-foot' ? 1200 / 3937 : 0.3048) / 12],
  [/^(yd|yards?)$/, (unit) => (unit === 'us-survey-foot' ? 1200 / 3937 : 0.3048) * 3],
];

const FIGURE_AND_UNIT = /^\s*([+\-−–]?[\d.,\s\u00a0\u2007\u2009\u202f'’]*\d[.,]?(?:e[+-]?\d+)?)\s*(.*?)\s*$/iu;

/**
 * Reads a length as typed, "8 in", "0.5 ft", "10cm", "1 234.5 m" or a bare number, into job units; or says in a sentence why it
 * cannot be read.
 */
export function readLength(text: string, unit: LengthUnit): { readonly value: number } | { readonly fault: string } {
  const match = FIGURE_AND_UNIT.exec(text);
  // A foot's own sign may follow the digits, where thousands may be parted by the same sign.
  const figure = match?.[1]?.replace(/['’]\s*$/, '') ?? '';
  const read = readTypedNumber(figure);
  if (!match || 'fault' in read)
    return { fault: `“${text.trim()}” is not a length. Type a number, with a unit if you like: 0.5, 8 in, 10 cm.` };
  if ('couldBe' in read) return { fault: typedNumberFault(figure)! };
  const word = match[2]!.toLowerCase();
  if (word === '') return read;
  const metres = TYPED_UNITS.find(([pattern]) => pattern.test(word))?.[1](unit);
  return metres === undefined
    ? { fault: `“${match[2]!}” is not a unit of length. Use m, cm, mm, ft, in or yd.` }
    : { value: (read.value * metres) / metresPer(unit) };
}

/**
 * As {@link readLength}, with nothing where the text is no length.
 * @example parseLength('8 in', 'metre') // 0.2032
 */
export function parseLength(text: string, unit: LengthUnit): number | undefined {
  const read = readLength(text, unit);
  return 'value' in read ? read.value : undefined;
}
