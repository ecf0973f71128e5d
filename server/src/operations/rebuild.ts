import {
  kindById,
  operationById,
  referencesOf,
  withReferences,
  type OperationDescription,
  type Product,
  type Referable,
} from '@pampero/contract';
import { JobError } from '../errors/job-error.js';
import { readyCloud } from '../store/cloud-repository.js';
import type { Models } from '../store/models.js';
import { listProducts, presentOf } from '../store/product-repository.js';

/** A product that is built again by the operation that made it. */
export interface RebuildStep {
  readonly product: Product;
  readonly description: OperationDescription;
  /** Its parameters with what has taken the place of its inputs by then; asked as the step begins. */
  readonly parametersNow: (models: Models) => Promise<Record<string, unknown>>;
}

/** A stale product that stays as it is, and why. */
export interface LeftStale {
  readonly productId: number;
  readonly name: string;
  readonly because: string;
}

/** Which stale products are built again, each after those it hangs on, and which cannot be. */
export async function rebuildPlan(models: Models): Promise<{ steps: RebuildStep[]; left: LeftStale[] }> {
  const products = await listProducts(models); // in the order of the graph
  const steps: RebuildStep[] = [];
  const left: LeftStale[] = [];
  for (const product of products.filter(({ isStale }) => isStale)) {
    const because = await whyNot(models, product);
    const description = operationById(product.operation);
    if (because !== undefined || !description)
      left.push({ productId: product.id, name: product.name, because: because ?? 'Its operation is not known here.' });
    else
      steps.push({
        product,
        description,
        parametersNow: (now) => parametersNow(now, product, description),
      });
  }
  return { steps, left };
}

async function whyNot(models: Models, product: Product): Promise<string | undefined> {
  const description = operationById(product.operation);
  const refused =
    description?.cannotRebuild?.(product.parameters) ?? kindById(product.kind)?.cannotRebuild?.(product.facts);
  if (refused !== undefined) return refused;
  for (const { refersTo, id } of description ? referencesOf(description, product.parameters) : [])
    if (!(await isThere(models, refersTo, id))) return 'Something it was made from is no longer in the job.';
  return undefined;
}

async function isThere(models: Models, refersTo: Referable, id: number): Promise<boolean> {
  if (refersTo !== 'cloud') return (await presentOf(models, id)) !== undefined;
  return readyCloud(models, id).then(
    () => true,
    () => false,
  );
}

async function parametersNow(
  models: Models,
  product: Product,
  description: OperationDescription,
): Promise<Record<string, unknown>> {
  const present = new Map<number, number>();
  const products = new Map((await listProducts(models)).map((each) => [each.id, each]));
  for (const { refersTo, id } of referencesOf(description, product.parameters)) {
    if (refersTo === 'cloud') continue;
    const now = await presentOf(models, id);
    const input = now === undefined ? undefined : products.get(now);
    if (!input || input.isStale)
      throw new JobError('input-stale', {
        what: `${product.name} is made from ${input?.name ?? 'something'} that was not rebuilt.`,
        fix: 'Fix what its entry in the field book says, then rebuild again.',
      });
    present.set(id, input.id);
  }
  return withReferences(description, product.parameters, (refersTo, id) =>
    refersTo === 'cloud' ? id : (present.get(id) ?? id),
  );
}
