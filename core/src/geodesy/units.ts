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

/**
 * Reads a length as typed, "8 in", "0.5 ft", "10cm" or a bare number, into job units.
 * @returns the length in `unit`, or `undefined` when the text is no length
 * @example parseLength('8 in', 'metre') // 0.2032
 */
export function parseLength(text: string, unit: LengthUnit): number | undefined {
  const match = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*(.*?)\s*$/i.exec(text.replace(',', '.'));
  if (!match) return undefined;
  const value = Number(match[1]);
  const word = match[2]!.toLowerCase();
  if (word === '') return value;
  const metres = TYPED_UNITS.find(([pattern]) => pattern.test(word))?.[1](unit);
  return metres === undefined ? undefined : (value * metres) / metresPer(unit);
}
