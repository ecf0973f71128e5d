import { kindById, type Holdings } from '@pampero/contract';
import { formatBytes } from '@pampero/core/wording';

export type Thing = Holdings['things'][number];

/** A thing of the job as a row of the list. */
export interface HoldingRow extends Thing {
  readonly key: string;
  readonly kindName: string;
  readonly size: string;
  readonly isChosen: boolean;
}

/** The largest first: that is where room is to be had. */
export function holdingRows(things: readonly Thing[], chosen: ReadonlySet<string>): HoldingRow[] {
  return [...things]
    .sort((a, b) => b.bytes - a.bytes || a.name.localeCompare(b.name))
    .map((thing) => ({
      ...thing,
      key: keyOf(thing),
      kindName: thing.kind === 'cloud' ? 'Cloud' : (kindById(thing.kind)?.name.one ?? thing.kind),
      size: thing.bytes === 0 ? '–' : formatBytes(thing.bytes),
      isChosen: chosen.has(keyOf(thing)),
    }));
}

/** Names of what stays but was made from something that goes; each once. */
export function strandedBy(going: readonly Pick<Thing, 'name' | 'usedBy'>[]): string[] {
  const names = new Set(going.map(({ name }) => name));
  return [...new Set(going.flatMap(({ usedBy }) => usedBy.filter((name) => !names.has(name))))];
}

/** What the operation is told to remove. */
export function removalOf(going: readonly Pick<Thing, 'kind' | 'id'>[]): { clouds: number[]; products: number[] } {
  const idsOf = (isCloud: boolean): number[] =>
    going.flatMap(({ kind, id }) => ((kind === 'cloud') === isCloud ? [id] : []));
  return { clouds: idsOf(true), products: idsOf(false) };
}

function keyOf({ kind, id }: Thing): string {
  return kind === 'cloud' ? `cloud-${id}` : `product-${id}`;
}
