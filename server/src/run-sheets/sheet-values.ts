import {
  operationById,
  ruleOf,
  rulesIn,
  type GivenPlaces,
  type Referable,
  type RunSheet,
  type SheetRule,
  type WorkStep,
} from '@pampero/contract';
import { parameterFields } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { JobError } from '../errors/job-error.js';
import { listClouds, readCloudReport } from '../store/cloud-repository.js';
import { madeOf } from '../store/history-repository.js';
import type { Models } from '../store/models.js';
import { kindOfProduct, listProducts, presentOf } from '../store/product-repository.js';
import type { SheetEntry } from '../store/sheet-run-repository.js';
import { keyOfStep, keyOfTurn, type PlannedStep } from './sheet-plan.js';

/** What rules of a sheet are answered from. */
export interface RunSoFar {
  readonly models: Models;
  readonly unit: LengthUnit;
  readonly sheet: RunSheet;
  readonly places: GivenPlaces;
  readonly entries: ReadonlyMap<string, SheetEntry>;
}

/**
 * The parameters of a step with the answers in the place of its rules.
 * @throws JobError where a rule has no answer
 */
export async function valuesOf(so: RunSoFar, planned: PlannedStep): Promise<Record<string, unknown>> {
  const step = planned.step as WorkStep;
  const operation = operationById(step.operation)!;
  const fields = new Map(parameterFields(operation, so.unit).map((field) => [field.name, field]));
  const out: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(step.parameters)) {
    const refersTo = fields.get(name)?.refersTo;
    if (rulesIn(value).length === 0) out[name] = value;
    else if (refersTo) {
      const found = await Promise.all(
        [value].flat().map(async (each) => {
          const rule = ruleOf(each);
          return rule ? referredBy(so, planned, rule, refersTo) : [each as number];
        }),
      );
      const ids = [...new Set(found.flat())];
      const isList = fields.get(name)!.type === 'array';
      if (ids.length === 0 && isPlaceLeftOut(so, value)) continue;
      if (ids.length === 0 || (!isList && ids.length > 1))
        throw new JobError('bad-request', {
          what:
            ids.length === 0
              ? `There is no ${refersTo} for “${fields.get(name)!.label}”.`
              : `“${fields.get(name)!.label}” takes one ${refersTo}, and there are ${ids.length}.`,
          where: planned.title,
          fix: 'Change the run sheet, or have the step done once for each.',
        });
      out[name] = isList ? ids : ids[0];
    } else {
      const answer = await plainValue(so, ruleOf(value)!, out, step, planned);
      if (answer !== undefined) out[name] = answer;
    }
  }
  return out;
}

const isPlaceLeftOut = (so: RunSoFar, value: unknown): boolean =>
  rulesIn(value).every((rule) => 'place' in rule && !(rule.place in so.places));

/** Numbers of the clouds or products that a rule means. */
async function referredBy(
  so: RunSoFar,
  planned: PlannedStep,
  rule: SheetRule,
  refersTo: Referable,
): Promise<readonly number[]> {
  const { each } = planned.step as WorkStep;
  if ('place' in rule) {
    const place = so.places[rule.place];
    if (!place || !('clouds' in place)) return [];
    return rule.place === each ? [place.clouds[planned.turn]!] : place.clouds;
  }
  if ('every' in rule) {
    if (rule.every === 'cloud') return (await listClouds(so.models)).map(({ id }) => id);
    return (await listProducts(so.models)).filter(({ kind }) => kind === rule.every).map(({ id }) => id);
  }
  if (!('from' in rule)) return [];
  const source = so.sheet.steps.find(({ key }) => key === rule.from);
  const isInTurn = rule.from === each || (each !== undefined && source?.kind === 'work' && source.each === each);
  const entries = isInTurn
    ? [so.entries.get(keyOfTurn(rule.from, planned.turn))]
    : [...so.entries.values()].filter(({ step }) => keyOfStep(step) === rule.from);
  const ids: number[] = [];
  for (const entry of entries) {
    if (entry?.state !== 'done') continue;
    for (const { kind, id } of madeOf(entry.effects)) {
      if ((kind === 'cloud') !== (refersTo === 'cloud')) continue;
      if (kind === 'cloud') ids.push(id);
      else {
        // What was edited or built again since stands in its place; what was removed is not there.
        const present = await presentOf(so.models, id);
        if (present !== undefined && (await kindOfProduct(so.models, present)) === refersTo) ids.push(present);
      }
    }
  }
  return ids;
}

async function plainValue(
  so: RunSoFar,
  rule: SheetRule,
  earlier: Readonly<Record<string, unknown>>,
  step: WorkStep,
  planned: PlannedStep,
): Promise<unknown> {
  if ('place' in rule) {
    const place = so.places[rule.place];
    return place && 'value' in place ? place.value : undefined;
  }
  if (!('spacings' in rule)) return undefined;
  const operation = operationById(step.operation)!;
  const cloudField = parameterFields(operation, so.unit).find(({ refersTo }) => refersTo === 'cloud');
  const own = cloudField && [earlier[cloudField.name]].flat().filter((id) => typeof id === 'number');
  const ids = own && own.length > 0 ? own : (await listClouds(so.models)).map(({ id }) => id);
  const spacings = await Promise.all(ids.map(async (id) => (await readCloudReport(so.models, id)).density.spacing));
  const widest = Math.max(...spacings);
  if (!Number.isFinite(widest) || widest <= 0)
    throw new JobError('bad-request', {
      what: 'There is no cloud to take the point spacing from.',
      where: planned.title,
      fix: 'Let the step come after an import.',
    });
  return Number((rule.spacings * widest).toPrecision(2));
}
