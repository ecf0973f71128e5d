import { columnFrom } from '@pampero/core/columns';
import type { ProductOf } from '@pampero/contract';
import type { Quantisation } from '@pampero/core/cloud';
import { type StripRule } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes, type StoredNode } from '../store/node-repository.js';
import { readProduct } from '../store/product-repository.js';
import type { NodeColumns } from '../tasks/node-columns.js';
import type { StripCloud } from '../tasks/strip-points.js';
import { overGroups, type CloudPass } from './cloud-pass.js';
import { groupNodes } from './node-groups.js';

/** A cloud taken apart by strip. */
export interface StripSite {
  readonly cloudId: number;
  readonly facts: CloudFacts & { readonly name: string; readonly pointCount: number };
  readonly quantisation: Quantisation;
  readonly nodes: readonly StoredNode[];
  readonly rule: StripRule;
  /** What each strip is called, in the order of the rule. */
  readonly names: readonly string[];
}

/** @throws PamperoError where the cloud has less than two strips */
export async function stripSite(
  { job }: CloudPass,
  cloudId: number,
  stripsId: number | undefined,
  { least = 2 }: { readonly least?: number } = {},
): Promise<StripSite> {
  const facts = await readCloudFacts(job.read, cloudId);
  const list = stripsId === undefined ? undefined : await readProduct(job.read, stripsId, 'strips');
  if (list && list.facts.cloudId !== cloudId)
    throw new PamperoError('strips-of-another-cloud', {
      what: `${list.name} are the strips of another cloud.`,
      fix: 'Find the strips of this cloud first, or choose them by point source ID.',
    });
  const { rule, names } = list ? ruleOf(list.facts) : bySource(facts.source.strips);
  if (names.length < least)
    throw new PamperoError('one-strip', {
      what:
        names.length === 1
          ? `${facts.name} has one strip only; there is nothing to compare it with.`
          : `${facts.name} has no strips: all points have point source ID 0.`,
      fix: 'Find strips by gaps in time or by straight runs of the trajectory first.',
    });
  return {
    cloudId,
    facts,
    quantisation: quantisationOf(facts),
    nodes: await listStoredNodes(job.read, cloudId),
    rule,
    names,
  };
}

function bySource(ids: readonly number[]): { rule: StripRule; names: string[] } {
  const used = ids.filter((id) => id !== 0 || ids.length > 1);
  return { rule: { by: 'source', ids: used, strip: used.map((_, k) => k) }, names: used.map(String) };
}

/** Strips of one name count as one. */
export function ruleOf({ by, strips }: ProductOf<'strips'>['facts']): { rule: StripRule; names: string[] } {
  const used = strips.filter(({ isLeftOut }) => !isLeftOut);
  const names = [...new Set(used.map(({ name }) => name))];
  if (by === 'source') {
    const strip = used.map(({ name }) => names.indexOf(name));
    return { rule: { by: 'source', ids: used.map(({ sourceId }) => sourceId!), strip }, names };
  }
  const timed = used.filter(({ from, to }) => from !== undefined && to !== undefined).sort((a, b) => a.from! - b.from!);
  return {
    rule: {
      by: 'time',
      from: columnFrom(Float64Array, timed, ({ from }) => from!),
      to: columnFrom(Float64Array, timed, ({ to }) => to!),
      strip: columnFrom(Uint16Array, timed, ({ name }) => names.indexOf(name)),
    },
    names,
  };
}

/** What a task is told of some nodes of the site. */
export function stripCloudOf(site: StripSite, nodes: readonly NodeColumns[]): StripCloud {
  const { columns, attributeNames } = site.facts;
  return { nodes, quantisation: site.quantisation, columns, attributeNames, rule: site.rule };
}

export interface StripTimes {
  readonly from: number;
  readonly to: number;
  readonly points: number;
}

/** First and last time of each strip's points; the whole of the cloud is read. */
export async function timesOfCloud(
  pass: CloudPass,
  site: Omit<StripSite, 'rule' | 'names'>,
  onShare?: (share: number) => void,
) {
  const parts = await overGroups(
    pass,
    groupNodes(site.nodes),
    { attributes: true, ...(onShare && { onShare }) },
    (nodes, _group, transfer) =>
      pass.pool.run(
        'timesOfNodes',
        {
          nodes,
          quantisation: site.quantisation,
          columns: site.facts.columns,
          attributeNames: site.facts.attributeNames,
        },
        pass.signal,
        transfer,
      ),
  );
  const bySource = new Map<number, StripTimes>();
  const seconds = new Map<number, StripTimes>();
  const add = (to: Map<number, StripTimes>, key: number, { from, to: end, points }: StripTimes): void => {
    const had = to.get(key);
    to.set(
      key,
      had
        ? { from: Math.min(had.from, from), to: Math.max(had.to, end), points: had.points + points }
        : { from, to: end, points },
    );
  };
  for (const part of parts) {
    for (const source of part.bySource) add(bySource, source.id, source);
    for (const second of part.seconds) add(seconds, second.second, second);
  }
  return { bySource, seconds };
}

/** The span of each strip of a site, in the cloud's own time. */
export function spansOf(
  { rule, names }: Pick<StripSite, 'rule' | 'names'>,
  bySource: ReadonlyMap<number, StripTimes>,
): { from: number; to: number }[] {
  if (rule.by === 'source')
    return names.map((_, strip) => {
      const own = rule.ids.flatMap((id, k) => (rule.strip[k] === strip ? (bySource.get(id) ?? []) : []));
      return own.length === 0
        ? { from: 0, to: 0 }
        : { from: Math.min(...own.map(({ from }) => from)), to: Math.max(...own.map(({ to }) => to)) };
    });
  return names.map((_, strip) => {
    const own = [...rule.strip.keys()].filter((k) => rule.strip[k] === strip);
    return { from: Math.min(...own.map((k) => rule.from[k]!)), to: Math.max(...own.map((k) => rule.to[k]!)) };
  });
}
