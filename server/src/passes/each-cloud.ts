import { readCloudFacts } from '../store/cloud-repository.js';
import type { Effect } from '../store/effects.js';
import type { RunContext, RunResult, RunWork } from '../runs/run-service.js';

/** Something for each of several clouds, one after another; what each reports is its share of the whole. */
export async function inTurn<T>(
  cloudIds: readonly number[],
  context: RunContext,
  work: (cloudId: number, context: RunContext) => Promise<T>,
): Promise<T[]> {
  const ids = [...new Set(cloudIds)];
  const results: T[] = [];
  for (const [k, id] of ids.entries())
    results.push(
      await work(id, { ...context, report: (share, step) => context.report((k + share) / ids.length, step) }),
    );
  return results;
}

/** Does the same to several clouds, one after another, as one step of the field book. */
export function eachCloud(cloudIds: readonly number[], work: (cloudId: number) => RunWork): RunWork {
  const ids = [...new Set(cloudIds)];
  if (ids.length === 1) return work(ids[0]!);
  return async (context) => {
    const done = await inTurn(ids, context, async (id, own): Promise<{ name: string; result: RunResult }> => {
      const { name } = await readCloudFacts(context.job.read, id);
      const report = (share: number, step: string): void => own.report(share, `${name}: ${step}`);
      return { name, result: await work(id)({ ...own, report }) };
    });
    return {
      outcome: done.map(({ name, result }) => `${name}: ${result.outcome}`).join('; '),
      figures: done.flatMap(({ name, result }) =>
        result.figures.map((figure) => ({ ...figure, label: `${name}, ${figure.label.toLowerCase()}` })),
      ),
      store: async (models) => {
        const effects: Effect[] = [];
        let productId: number | undefined;
        for (const { result } of done) {
          const stored = await result.store(models);
          effects.push(...stored.effects);
          productId = stored.productId ?? productId;
        }
        return { effects, ...(productId !== undefined && { productId }) };
      },
    };
  };
}

/** The parameters of an operation on several clouds, as for one of them. */
export type OnCloud<P extends { readonly clouds?: unknown }> = Omit<P, 'clouds'> & { readonly cloudId: number };

/** Takes an operation on several clouds apart into one on each. */
export function onEachCloud<P extends { readonly clouds: readonly number[] }>(
  { clouds, ...rest }: P,
  work: (parameters: OnCloud<P>) => RunWork,
): RunWork {
  return eachCloud(clouds, (cloudId) => work({ ...rest, cloudId }));
}
