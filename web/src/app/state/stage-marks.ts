import { operationById, stages, type HistoryEntry, type Product, type Stage } from '@pampero/contract';

export type StageMark = 'hollow' | 'half' | 'solid';

/** How far each stage is: begun and fresh, begun but with stale products of its own, or not begun. */
export function stageMarks(
  entries: readonly Pick<HistoryEntry, 'state' | 'stage'>[],
  products: readonly Pick<Product, 'isStale' | 'operation'>[],
): Readonly<Record<Stage, StageMark>> {
  const begun = new Set(entries.filter(({ state }) => state === 'done').map(({ stage }) => stage));
  const stale = new Set(
    products.filter(({ isStale }) => isStale).map(({ operation }) => operationById(operation)?.stage),
  );
  return Object.fromEntries(
    stages.map(({ id }): [Stage, StageMark] => [id, !begun.has(id) ? 'hollow' : stale.has(id) ? 'half' : 'solid']),
  ) as Record<Stage, StageMark>;
}
