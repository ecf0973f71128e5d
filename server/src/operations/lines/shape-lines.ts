import { shapeLines, type ShapeLinesParameters } from '@pampero/contract';
import { packLines, unpackLines, type FeatureLine } from '@pampero/core/lines';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { findLines, readLines } from '../../store/line-repository.js';
import type { Models } from '../../store/models.js';
import { readProduct, readProductBlob } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

interface CodedLine extends FeatureLine {
  readonly code: string;
}

/** The lines that were chosen, or all of the codes. */
async function linesOf(models: Models, { keys, codes }: ShapeLinesParameters): Promise<CodedLine[]> {
  if (keys.length > 0)
    return [...(await findLines(models, keys)).values()].map(({ product, line }) => ({ ...line, code: product.facts.code })); // prettier-ignore
  const out: CodedLine[] = [];
  for (const id of codes) {
    const { code } = (await readProduct(models, id, 'lines')).facts;
    for (const line of await readLines(models, id)) out.push({ ...line, code });
  }
  if (out.length === 0)
    throw new PamperoError('no-lines', { what: 'No lines were chosen.', fix: 'Select lines, or choose codes.' });
  return out;
}

function work(parameters: ShapeLinesParameters, { pool }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { keys: _, codes: __, surfaceId, newCode, ...how } = parameters;
    report(0.05, 'Reading lines');
    const lines = await linesOf(job.read, parameters);
    const codeOf = new Map(lines.map(({ key, code }) => [key, code]));
    const isJoin = how.shaping === 'join';
    // Only lines of one code are joined.
    const groups = isJoin ? [...new Set(codeOf.values())].map((code) => lines.filter((line) => line.code === code)) : [lines]; // prettier-ignore
    const tin = how.shaping === 'drape' && surfaceId !== undefined ? await readProductBlob(job.read, surfaceId, 'tin') : undefined; // prettier-ignore
    const shaped: FeatureLine[] = [];
    const gone: number[] = [];
    const left: string[] = [];
    for (const [k, group] of groups.entries()) {
      report(0.1 + (0.8 * k) / groups.length, 'Shaping lines');
      const made = await pool.run('shapeLines', { lines: packLines(group), how, ...(tin && { tin }) }, signal).catch((error: unknown) => {
        // A code without ends to join is no fault where others have some.
        if (isJoin && groups.length > 1 && error instanceof PamperoError && error.code === 'no-line-shaped') return undefined; // prettier-ignore
        throw error;
      }); // prettier-ignore
      if (!made) continue;
      shaped.push(...unpackLines(made.lines));
      gone.push(...made.gone);
      left.push(...made.left);
    }
    const isBeside = how.shaping === 'offset';
    const made = await sortMadeLines(job.read, {
      lines: shaped.map((shape) => ({
        code: (isBeside ? newCode : undefined) ?? codeOf.get(shape.key)!,
        shape,
        key: isBeside ? undefined : shape.key,
      })),
      remove: gone,
    });
    const before = lines.reduce((sum, { easting }) => sum + easting.length, 0);
    const after = shaped.reduce((sum, { easting }) => sum + easting.length, 0);
    return {
      outcome: `${formatCounted(shaped.length, 'line')}, ${formatCount(before)} vertices before, ${formatCount(after)} now`,
      figures: [
        ...lineFigures(shaped),
        ...(left.length > 0
          ? [
              { label: 'Lines left as they are', value: left.length, quantity: 'count' as const },
              ...left.slice(0, 10).map((text) => ({ label: 'Left', value: text, quantity: 'text' as const })),
            ]
          : []),
      ],
      store: (models) => storeMadeLines(models, historyId, shapeLines.id, made),
    };
  };
}

export const operation = serverOperation(shapeLines, work);
