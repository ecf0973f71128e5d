import { featureCodeSchema, importCodes, type ImportCodesParameters } from '@pampero/contract';
import { FormatError } from '@pampero/core/formats';
import { LINE_ROLES, LINE_STYLES, type FeatureCode } from '@pampero/core/lines';
import { formatCounted } from '@pampero/core/wording';
import { parse } from 'csv-parse/sync';
import { readFile } from 'node:fs/promises';
import { readCodes } from '../../store/code-repository.js';
import { listProducts } from '../../store/product-repository.js';
import type { RunWork } from '../../runs/run-service.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';
import { codeChanges, storeCodes } from './edit-codes.js';

const LARGEST_LIST = 2_000_000;

/** A code list as CSV; columns are found by their names, in any order. */
async function begin({ keepOthers }: ImportCodesParameters, { source, file }: FileSurroundings): Promise<RunWork> {
  const { path, fileName } = source;
  const bytes = await readFile(path);
  if (bytes.length > LARGEST_LIST)
    throw new FormatError('not-this-format', { what: `${fileName} is too large for a code list.`, fix: 'Give a CSV file of codes.' }); // prettier-ignore
  const before = await readCodes(file.read);
  const read = codesOf(bytes.toString('utf8'), fileName, before);
  const inUse = new Set((await listProducts(file.read)).flatMap(({ kind, facts }) => (kind === 'lines' && facts.lines > 0 ? [facts.code] : []))); // prettier-ignore
  const others = before.filter(({ code }) => (keepOthers || inUse.has(code)) && !read.some((of) => of.code === code));
  const codes = [...read, ...others];
  return () =>
    Promise.resolve({
      outcome: `${formatCounted(read.length, 'code')}. ${codeChanges(before, codes)}`,
      figures: [{ label: 'Codes', value: codes.length, quantity: 'count' as const }],
      store: async (models) => ({ effects: await storeCodes(models, codes, importCodes.id) }),
    });
}

function codesOf(text: string, fileName: string, before: readonly FeatureCode[]): FeatureCode[] {
  const wrong = (what: string, line?: number): FormatError =>
    new FormatError('not-this-format', {
      what: `${fileName}: ${what}.`,
      ...(line !== undefined && { where: `line ${line}` }),
      fix: 'Give the columns code, meaning, use, colour, style, opacity (in percent) and layer; code alone is needed.',
    });
  let rows: Record<string, string>[];
  try {
    rows = parse(text, { columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()), bom: true, skip_empty_lines: true, trim: true, delimiter: [',', ';', '\t'], relax_column_count: true }); // prettier-ignore
  } catch (error) {
    throw wrong(`it cannot be read as CSV (${error instanceof Error ? error.message : String(error)})`);
  }
  if (rows.length === 0 || rows[0]!['code'] === undefined) throw wrong('it has no column “code”');
  const seen = new Set<string>();
  return rows.map((row, k): FeatureCode => {
    const code = row['code'] ?? '';
    const known = before.find((of) => of.code === code);
    const use = row['use'] ?? '';
    const style = row['style'] ?? '';
    if (use !== '' && !LINE_ROLES.some((role) => role === use)) throw wrong(`“${use}” is no use of lines; there are ${LINE_ROLES.join(', ')}`, k + 2); // prettier-ignore
    if (style !== '' && !LINE_STYLES.some((of) => of === style)) throw wrong(`“${style}” is no line style; there are ${LINE_STYLES.join(', ')}`, k + 2); // prettier-ignore
    const percent = (row['opacity'] ?? '').replace(/\s*%$/, '');
    if (seen.has(code)) throw wrong(`code ${code} is listed twice`, k + 2);
    seen.add(code);
    const parsed = featureCodeSchema.safeParse({
      code,
      meaning: row['meaning'] ?? known?.meaning ?? '',
      role: use === '' ? (known?.role ?? 'breakline') : use,
      colour: row['colour'] || known?.colour || '#0B5FA5',
      style: style === '' ? (known?.style ?? 'solid') : style,
      ...opacityOf(percent === '' ? known?.opacity : Number(percent) / 100),
      layer: row['layer'] || known?.layer || code,
    });
    if (!parsed.success) throw wrong(parsed.error.issues[0]?.message ?? 'a code is wrong', k + 2);
    return parsed.data;
  });
}

/** Full is what is meant where nothing is said. */
const opacityOf = (opacity: number | undefined): Pick<FeatureCode, 'opacity'> =>
  opacity === undefined || opacity === 1 ? {} : { opacity };

export const operation = fileOperation(importCodes, begin);
