import { FormatError } from '@pampero/core/formats';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { XMLParser } from 'fast-xml-parser';

/** Linear units of the LandXML 1.2 schema that jobs can be in. */
export const LANDXML_UNITS: Readonly<Record<string, LengthUnit>> = {
  meter: 'metre',
  USSurveyFoot: 'us-survey-foot',
  foot: 'international-foot',
};

/**
 * The root element of a LandXML text, once its unit is known to be the job's.
 * @param lists - elements that are lists, also where there is one alone
 * @throws FormatError
 */
export function openLandXml(
  text: string,
  fileName: string,
  unit: LengthUnit,
  lists: readonly string[],
): Record<string, unknown> {
  const isList = new Set(lists);
  let document: { LandXML?: Record<string, unknown> };
  try {
    document = new XMLParser({
      ignoreAttributes: false,
      parseTagValue: false,
      parseAttributeValue: false,
      isArray: (name) => isList.has(name),
    }).parse(text, true) as typeof document;
  } catch (error) {
    throw new FormatError('not-this-format', {
      what: `${fileName} is not well-formed XML: ${error instanceof Error ? error.message : String(error)}.`,
      fix: 'Save it again as LandXML.',
    });
  }
  const root = document.LandXML;
  if (!root)
    throw new FormatError('not-this-format', {
      what: `${fileName} is XML, but not LandXML.`,
      fix: 'Save it as LandXML 1.2.',
    });
  const units = root['Units'] as Record<string, { '@_linearUnit'?: string }> | undefined;
  const linear = units && Object.values(units).find((of) => of['@_linearUnit'] !== undefined)?.['@_linearUnit'];
  const own = linear === undefined ? unit : LANDXML_UNITS[linear];
  if (own !== unit)
    throw new FormatError('unit-differs', {
      what: `${fileName} is in ${own ? lengthUnits[own].name : (linear ?? 'an unknown unit')}, the job in ${lengthUnits[unit].name}: they do not fit together.`,
      fix: 'Save it in the coordinate system and unit of the job.',
    });
  return root;
}

/** Whatever stands where a list should, is taken for none. */
export const listOf = <T>(of: unknown): readonly T[] => (Array.isArray(of) ? (of as T[]) : []);
