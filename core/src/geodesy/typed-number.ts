/** What a figure that was typed says, or why it says nothing. */
export type TypedNumber =
  | { readonly value: number }
  /** It can be read in two ways: "1,234" is a thousand and more to one reader, one and a bit to another. */
  | { readonly couldBe: readonly [number, number] }
  | { readonly fault: 'no-number' };

const NO_NUMBER: TypedNumber = { fault: 'no-number' };
/** Spaces of every width and apostrophes, as they part thousands. */
const GAPS = /[\s\u00a0\u2007\u2009\u202f'’]/g;
const GROUPED_BY_GAPS = /^\d{1,3}(?:[\s\u00a0\u2007\u2009\u202f'’]\d{3})+(?=[.,]|$)/;

/**
 * Reads a figure the way it is written, thousands parted or not: "1 234.50", "1,234.50", "1.234,50" and "1'234.5" are a
 * thousand and more, "1,5" is one and a half. Of "1,234" nobody can tell, and it is not guessed.
 * @example readTypedNumber('1,234') // { couldBe: [1234, 1.234] }
 */
export function readTypedNumber(text: string): TypedNumber {
  const trimmed = text.trim().replace(/^[−–]/, '-');
  const match = /^([+-]?)([\d.,\s\u00a0\u2007\u2009\u202f'’]+?)(e[+-]?\d+)?$/i.exec(trimmed);
  if (!match || !/\d/.test(match[2]!)) return NO_NUMBER;
  const sign = match[1] === '-' ? -1 : 1;
  const exponent = match[3] ?? '';
  let digits = match[2]!.trim();
  if (/[\s\u00a0\u2007\u2009\u202f'’]/.test(digits)) {
    if (!GROUPED_BY_GAPS.test(digits)) return NO_NUMBER;
    digits = digits.replace(GAPS, '');
    // Thousands are parted by gaps: whatever else stands there is the decimal sign.
    return valueOf(digits.replace(',', '.'), sign, exponent);
  }
  const [commas, points] = [count(digits, ','), count(digits, '.')];
  if (commas > 0 && points > 0) {
    const [thousands, decimal] = digits.lastIndexOf(',') > digits.lastIndexOf('.') ? ['.', ','] : [',', '.'];
    if (count(digits, decimal) > 1) return NO_NUMBER;
    const [whole, part] = digits.split(decimal) as [string, string];
    return isGrouped(whole, thousands)
      ? valueOf(`${whole.replaceAll(thousands, '')}.${part}`, sign, exponent)
      : NO_NUMBER;
  }
  if (commas > 1) return isGrouped(digits, ',') ? valueOf(digits.replaceAll(',', ''), sign, exponent) : NO_NUMBER;
  if (points > 1) return isGrouped(digits, '.') ? valueOf(digits.replaceAll('.', ''), sign, exponent) : NO_NUMBER;
  if (commas === 1 && exponent === '' && /^[1-9]\d{0,2},\d{3}$/.test(digits))
    return { couldBe: [sign * Number(digits.replace(',', '')), sign * Number(digits.replace(',', '.'))] };
  return valueOf(digits.replace(',', '.'), sign, exponent);
}

/** As {@link readTypedNumber}, with a sentence for the field in which the figure was typed where it cannot be read. */
export function readFigure(text: string): { readonly value: number } | { readonly fault: string } {
  const read = readTypedNumber(text);
  return 'value' in read ? read : { fault: typedNumberFault(text)! };
}

/** A sentence for the field in which the figure was typed; undefined where it can be read. */
export function typedNumberFault(text: string): string | undefined {
  const read = readTypedNumber(text);
  if ('value' in read) return undefined;
  if ('couldBe' in read)
    return `“${text.trim()}” can be ${read.couldBe[0]} or ${read.couldBe[1]}. Write it one of these ways.`;
  return `“${text.trim()}” is not a number.`;
}

function valueOf(plain: string, sign: number, exponent: string): TypedNumber {
  if (!/^(?:\d+\.?\d*|\.\d+)$/.test(plain)) return NO_NUMBER;
  const value = sign * Number(plain + exponent);
  return Number.isFinite(value) ? { value } : NO_NUMBER;
}

function isGrouped(digits: string, by: string): boolean {
  const [first, ...groups] = digits.split(by);
  return /^\d{1,3}$/.test(first!) && groups.every((group) => /^\d{3}$/.test(group));
}

function count(text: string, letter: string): number {
  return text.split(letter).length - 1;
}
