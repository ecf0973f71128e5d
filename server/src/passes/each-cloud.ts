import { readCloudFacts } from '../store/cloud-repository.js';
import type { Effect } from '../store/history-repository.js';
import type { RunResult, RunWork } from '../runs/run-service.js';

/** Does the same to several clouds, one after another, as one step of the field book. */
export function eachCloud(cloudIds: readonly number[], work: (cloudId: number) => RunWork): RunWork {
  const ids = [...new Set(cloudIds)];
  if (ids.length === 1) return work(ids[0]!);
  return async (context) => {
    const done: { readonly name: string; readonly result: RunResult }[] = [];
    for (const [k, id] of ids.entries()) {
      const { name } = await readCloudFacts(context.job.read, id);
      const report = (share: number, step: string): void =>
        context.report((k + share) / ids.length, `${name}: ${step}`);
      done.push({ name, result: await work(id)({ ...context, report }) });
    }
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
