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

/** What is no product. */
const KIND_NAMES: Readonly<Record<string, string>> = { cloud: 'Cloud', control: 'Survey points' };

/** The largest first: that is where room is to be had. */
export function holdingRows(things: readonly Thing[], chosen: ReadonlySet<string>): HoldingRow[] {
  return [...things]
    .sort((a, b) => b.bytes - a.bytes || a.name.localeCompare(b.name))
    .map((thing) => ({
      ...thing,
      key: keyOf(thing),
      kindName: KIND_NAMES[thing.kind] ?? kindById(thing.kind)?.name.one ?? thing.kind,
      size: thing.bytes === 0 ? '–' : formatBytes(thing.bytes),
      isChosen: chosen.has(keyOf(thing)),
    }));
}

/** Names of what stays but was made from something that goes; each once. */
export function strandedBy(going: readonly Pick<Thing, 'kind' | 'name' | 'usedBy'>[]): string[] {
  const names = new Set(going.map(({ name }) => name));
  return [
    ...new Set(
      going.flatMap(({ kind, usedBy }) => (kind === 'control' ? [] : usedBy.filter((name) => !names.has(name)))),
    ),
  ];
}

/** What the operation is told to remove. */
export function removalOf(going: readonly Pick<Thing, 'kind' | 'id'>[]): {
  clouds: number[];
  control: number[];
  products: number[];
} {
  const idsOf = (of: 'cloud' | 'control' | 'product'): number[] =>
    going.flatMap((thing) => (sortOf(thing) === of ? [thing.id] : []));
  return { clouds: idsOf('cloud'), control: idsOf('control'), products: idsOf('product') };
}

const sortOf = ({ kind }: Pick<Thing, 'kind'>): 'cloud' | 'control' | 'product' =>
  kind === 'cloud' || kind === 'control' ? kind : 'product';

function keyOf(thing: Thing): string {
  return `${sortOf(thing)}-${thing.id}`;
}
