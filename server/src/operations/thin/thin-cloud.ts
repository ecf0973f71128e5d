import { thinCloud, type Figure, type ThinCloudParameters } from '@pampero/contract';
import { classMask, PointFlag } from '@pampero/core/cloud';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { NodeBits } from '@pampero/core/selection';
import { PamperoError } from '@pampero/core/task';
import type { SurfaceDifference } from '@pampero/core/thinning';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { eachCloud } from '../../passes/each-cloud.js';
import { byNode, changeMarks } from '../../passes/node-groups.js';
import type { RunWork } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { Effect } from '../../store/effects.js';
import type { Marks } from '../../store/mark-difference.js';
import type { Models } from '../../store/models.js';
import { storeProduct } from '../../store/product-repository.js';
import { packGrid } from '../../tasks/grid-tasks.js';
import { copyToCloudWork } from '../clean/copy-to-cloud.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { choosePoints, countTaken } from './choose-points.js';
import { compareThinned, mapFrame } from './thinning-difference.js';
import type { ThinningSite } from './thinning-site.js';

/** Says which points of the chosen classes stay, by a flag or in a cloud of their own; nothing is removed. */
function thinOne(
  { clouds: _, ...parameters }: ThinCloudParameters,
  cloudId: number,
  surroundings: Surroundings,
): RunWork {
  const { pool, unit, replaces } = surroundings;
  return async (context) => {
    const { job, historyId, report, signal } = context;
    const { classes, outcome } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const takes = classMask(classes);
    const nodes = await listStoredNodes(job.read, cloudId);
    const site: ThinningSite = { pass: { pool, job, signal }, report, facts, nodes, takes };
    const before = await countTaken(site);
    if (before === 0)
      throw new PamperoError('nothing-selected', {
        what: 'The cloud has no points of the chosen classes that are not withheld.',
        fix: 'Choose other classes, or restore what is withheld.',
      });
    const { kept, unheld } = await choosePoints(site, parameters, before);
    const after = kept.reduce((sum, { indices }) => sum + indices.length, 0);
    const keptOf = new Map([...byNode(kept)].map(([id, lists]) => [id, lists.map(({ indices }) => indices)]));
    const frame = parameters.differenceMap ? mapFrame(facts, before) : undefined;
    const { difference, map } = after >= 3 ? await compareThinned(site, keptOf, frame) : {};
    const packed = frame && map && packGrid(map, frame);
    const storeMap = async (models: Models): Promise<{ effects: readonly Effect[]; productId?: number }> =>
      packed && packed.facts.filled > 0
        ? storeProduct(models, {
            kind: 'grid',
            name: `${facts.name}: thinned minus all points`,
            operation: thinCloud.id,
            // Each cloud's map is built again by itself.
            parameters: { ...parameters, clouds: [cloudId] },
            facts: { ...packed.facts, isCount: false, isDifference: true },
            blobs: { grid: packed.grid },
            replaces,
          })
        : { effects: [] };
    const figures = figuresOf(facts, unit, before, after, difference, unheld);
    if (outcome === 'new-cloud') {
      const name = `${facts.name}, thinned`;
      const bits = nodes.flatMap(({ id, count }): NodeBits[] => {
        const lists = keptOf.get(id);
        if (!lists) return [];
        const mask = new Uint8Array(Math.ceil(count / 8));
        for (const indices of lists) for (const i of indices) mask[i >> 3]! |= 1 << (i & 7);
        return [{ nodeId: id, bits: mask }];
      });
      const visible = { hiddenClasses: [], withWithheld: false, clouds: [cloudId] };
      const selection = [{ how: 'add' as const, shape: { kind: 'points' as const, nodes: bits }, visible }];
      const copied = await copyToCloudWork(
        selection,
        name,
        surroundings,
      )({ ...context, report: (share, step) => report(0.85 + 0.15 * share, step) });
      return {
        ...copied,
        store: async (models) => {
          const stored = await copied.store(models);
          return { ...stored, effects: [...stored.effects, ...(await storeMap(models)).effects] };
        },
        outcome: `${formatCount(after)} of ${formatCount(before)} points into ${name}`,
        figures,
      };
    }
    report(0.93, 'Storing flags');
    const change = (nodeId: number, { classification, flags }: Marks): void => {
      const stays = new Uint8Array(flags.length);
      for (const indices of keptOf.get(nodeId) ?? []) for (const i of indices) stays[i] = 1;
      for (let i = 0; i < flags.length; i++) {
        if (takes[classification[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
        if (outcome === 'withhold') {
          if (stays[i] === 0) flags[i]! |= PointFlag.withheld;
        } else if (stays[i] === 1) flags[i]! |= PointFlag.keyPoint;
        else flags[i]! &= ~PointFlag.keyPoint;
      }
    };
    const ids = nodes.map(({ id }) => id);
    const changes = await changeMarks(pool, job.read, ids, change, signal);
    return {
      outcome: `${formatCount(after)} of ${formatCount(before)} points kept${outcome === 'withhold' ? '; the others are withheld' : ', flagged as key points'}`,
      figures,
      store: async (models) => {
        // The map hangs on the cloud as the thinning leaves it.
        const marked = changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)];
        const { effects, productId } = await storeMap(models);
        return { effects: [...marked, ...effects], ...(productId !== undefined && { productId }) };
      },
    };
  };
}

function figuresOf(
  { bounds: { min, max } }: CloudFacts,
  unit: LengthUnit,
  before: number,
  after: number,
  difference: SurfaceDifference | undefined,
  unheld: number,
): Figure[] {
  const extent = (max[0] - min[0]) * (max[1] - min[1]);
  const { short } = lengthUnits[unit];
  const density = (count: number): string => (count / extent).toPrecision(3);
  const length = (value: number): string => `${formatNumber(value, 3)} ${short}`;
  return [
    { label: 'Before', value: before, quantity: 'count' },
    { label: 'Kept', value: after, quantity: 'count' },
    { label: 'Share', value: after / before, quantity: 'share' },
    { label: 'Spacing before', value: Math.sqrt(extent / before), quantity: 'length' },
    { label: 'Spacing now', value: Math.sqrt(extent / Math.max(1, after)), quantity: 'length' },
    { label: `Points per ${short}² before, now`, value: `${density(before)}, ${density(after)}`, quantity: 'text' },
    ...(difference
      ? ([
          { label: 'Surface now minus points before, mean', value: length(difference.mean), quantity: 'text' },
          { label: 'RMSEz', value: length(difference.rmse), quantity: 'text' },
          { label: '95 % within', value: length(difference.within95), quantity: 'text' },
          { label: 'Worst', value: length(difference.worst), quantity: 'text' },
          ...(difference.outside > 0
            ? [{ label: 'Points beyond the surface now', value: difference.outside, quantity: 'count' as const }]
            : []),
        ] satisfies Figure[])
      : []),
    ...(unheld > 0
      ? [{ label: 'Points above others at the same place', value: unheld, quantity: 'count' as const }]
      : []),
  ];
}

export const operation = serverOperation(thinCloud, (parameters, surroundings) =>
  eachCloud(parameters.clouds, (cloudId) => thinOne(parameters, cloudId, surroundings)),
);
