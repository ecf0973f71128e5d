import { editCodes } from '@pampero/contract';
import type { FeatureCode } from '@pampero/core/lines';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { readCodes, replaceCodes } from '../../store/code-repository.js';
import type { Effect } from '../../store/effects.js';
import { changeRole } from '../../store/line-repository.js';
import type { Models } from '../../store/models.js';
import { listProducts } from '../../store/product-repository.js';
import { serverOperation } from '../server-operation.js';

/** Stores another code list; lines whose code is used as something else now follow, and surfaces made with them go stale. */
export async function storeCodes(models: Models, codes: readonly FeatureCode[], operation: string): Promise<Effect[]> {
  const effects: Effect[] = [await replaceCodes(models, codes)];
  for (const product of await listProducts(models)) {
    if (product.kind !== 'lines') continue;
    const role = codes.find(({ code }) => code === product.facts.code)?.role;
    if (role !== undefined && role !== product.facts.role) effects.push(...(await changeRole(models, product, role, operation))); // prettier-ignore
  }
  return effects;
}

/** What differs between two lists, in words. */
export function codeChanges(before: readonly FeatureCode[], after: readonly FeatureCode[]): string {
  const old = new Map(before.map((code) => [code.code, JSON.stringify(code)]));
  const names = (codes: readonly FeatureCode[]): string =>
    codes.slice(0, 6).map(({ code }) => code).join(', ') + (codes.length > 6 ? `, ${codes.length - 6} more` : ''); // prettier-ignore
  const fresh = after.filter(({ code }) => !old.has(code));
  const changed = after.filter((code) => old.has(code.code) && old.get(code.code) !== JSON.stringify(code));
  const gone = before.filter(({ code }) => !after.some((other) => other.code === code));
  const said = [
    fresh.length > 0 && `New: ${names(fresh)}`,
    changed.length > 0 && `changed: ${names(changed)}`,
    gone.length > 0 && `removed: ${names(gone)}`,
  ].filter(Boolean);
  return said.join('; ') || 'Nothing changed';
}

/** @throws PamperoError `code-in-use` where lines would be left without their code */
async function checkInUse(models: Models, codes: readonly FeatureCode[]): Promise<void> {
  for (const { kind, name, facts } of await listProducts(models))
    if (kind === 'lines' && facts.lines > 0 && !codes.some(({ code }) => code === name))
      throw new PamperoError('code-in-use', {
        what: `The job has ${facts.lines} lines of code ${name}.`,
        fix: 'Keep the code, or give its lines another one first.',
      });
}

function work(codes: readonly FeatureCode[]): RunWork {
  return async ({ job }) => {
    await checkInUse(job.read, codes);
    return {
      outcome: codeChanges(await readCodes(job.read), codes),
      figures: [{ label: 'Codes', value: codes.length, quantity: 'count' }],
      store: async (models) => ({ effects: await storeCodes(models, codes, editCodes.id) }),
    };
  };
}

export const operation = serverOperation(editCodes, ({ codes }) => work(codes));
