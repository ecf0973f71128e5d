import { DEFAULT_CODES, type FeatureCode, type LineRole } from '@pampero/core/lines';
import type { Effect } from './effects.js';
import { replaceSetting } from './history-repository.js';
import type { Models } from './models.js';
import { storedJson } from './stored-json.js';

const CODES_KEY = 'codes';

/** The feature codes of a job; the ones it began with where nobody has changed them. */
export async function readCodes(models: Models): Promise<readonly FeatureCode[]> {
  const row = (await models.meta.findByPk(CODES_KEY, { raw: true })) as unknown as { value: string } | null;
  return row ? (storedJson(row.value) as FeatureCode[]) : DEFAULT_CODES;
}

export async function replaceCodes(models: Models, codes: readonly FeatureCode[]): Promise<Effect> {
  return replaceSetting(models, CODES_KEY, JSON.stringify(codes));
}

/** Colours for codes that come without one, one after the other: apart from each other on either ground. */
const SPARE_COLOURS = ['#B4412E', '#0B5FA5', '#3F7D4E', '#8A3FA0', '#B58900', '#0FA3B1', '#C05BA8', '#6B6B6B'];

/** A code the list did not have. */
export function newCode(code: string, role: LineRole, known: readonly FeatureCode[]): FeatureCode {
  const colour = SPARE_COLOURS[known.length % SPARE_COLOURS.length]!;
  return { code, meaning: '', role, colour, style: 'solid', layer: code };
}
