import { colourFromPhotographs, type ColourFromPhotographsParameters } from '@pampero/contract';
import type { PictureFrame } from '@pampero/core/imagery';
import { balanceGains, type Box } from '@pampero/core/photographs';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { BLOCK_POINTS, colourByBlocks } from '../../passes/colour-blocks.js';
import { overGroups, type CloudPass } from '../../passes/cloud-pass.js';
import { evenSample, groupNodes, handOver, readNodeColumns } from '../../passes/node-groups.js';
import {
  otherwaysOf,
  photographSite,
  SharedTiles,
  tilesOver,
  type PhotographSite,
} from '../../passes/photograph-site.js';
import { spacingOf } from '../../passes/picture-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes, type StoredNode } from '../../store/node-repository.js';
import { finishColourSet, removeColourSet } from '../../store/colour-repository.js';
import { readTile } from '../../store/picture-repository.js';
import type { Overlaps, PosedPhotograph } from '../../tasks/photograph-tasks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Points that photographs are compared at, and photographs that other ways to read the angles are tried with. */
const [SAMPLE, TRIED] = [60_000, 40];
/** Another way to read the angles is named where it agrees so much better. */
const CLEARLY = 0.2;
/** Fewer points that two photographs see tell nothing. */
const LEAST_COMPARED = 200;
/** Small blocks are seen by fewer photographs, which every point of theirs is held against. */
const POINTS_OF_BLOCK = BLOCK_POINTS / 4;
/** Parts of the run: depth pictures, then the comparison, then the colours. */
const [DEPTHS, COMPARED] = [0.25, 0.35];

function work(parameters: ColourFromPhotographsParameters, { pool }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const pass = { pool, job, signal };
    const facts = await readCloudFacts(job.read, parameters.cloud);
    const { attributeNames: names, columns, bounds } = facts;
    const quantisation = quantisationOf(facts);
    const box: Box = { min: bounds.min, max: bounds.max };
    const site = await photographSite(job.read, parameters.photographs, box, spacingOf(facts));
    const { product, posed, depths } = site;
    const nodes = await listStoredNodes(job.read, parameters.cloud);
    await overGroups(
      pass,
      groupNodes(nodes),
      { onShare: (share) => report(DEPTHS * share, 'Finding what stands before what') },
      (some, _, transfer) =>
        pool.run('enterDepths', { nodes: some, quantisation, photographs: posed, depths }, signal, transfer),
    );
    report(DEPTHS, 'Comparing photographs');
    const overlaps = await compare(pass, site, nodes, quantisation);
    const said = checkAgreement(overlaps, site, parameters.leastAgreement);
    const gains = parameters.evenSeams ? balanceGains(posed.length, overlaps.pairs) : undefined;
    const ready = posed.map((each, k): PosedPhotograph => ({ ...each, gains: gains?.[k] ?? each.gains }));

    const { frame, side } = blocksOver(box, facts.pointCount);
    const { classes, withWithheld } = parameters;
    const tilesOfAll = new SharedTiles(job.read, product.id);
    const { setId, parts } = await colourByBlocks(
      { ...pass, historyId },
      parameters.cloud,
      { frame, side },
      async ({ block, plan, own, nodes: within, colours }) => {
        const heights = own.flatMap(({ minZ, maxZ }) => [minZ, maxZ]);
        const height = (of: (...values: number[]) => number): number =>
          heights.reduce((a, b) => of(a, b)) * quantisation.scale[2] + quantisation.offset[2];
        const around: Box = {
          min: [plan.west, plan.south, height(Math.min)],
          max: [plan.east, plan.north, height(Math.max)],
        };
        const seen: (PosedPhotograph & { tiles: Awaited<ReturnType<typeof tilesOver>>; level: number })[] = [];
        for (const k of posed.keys()) {
          const tiles = await tilesOver(tilesOfAll, site, k, around);
          if (tiles.length > 0) seen.push({ ...ready[k]!, tiles, level: site.levels[k]! });
        }
        const task = { nodes: within, colours, block, placement: frame, quantisation, names, columns };
        return pool.run(
          'colourBlockFromPhotographs',
          { ...task, photographs: seen, depths, classes, withWithheld },
          signal,
          handOver(within),
        );
      },
      (share) => report(COMPARED + (0.98 - COMPARED) * share, 'Colouring'),
    );
    const [coloured, unseen] = [
      parts.reduce((sum, part) => sum + part.coloured, 0),
      parts.reduce((sum, part) => sum + part.unseen, 0),
    ];
    if (coloured === 0) {
      await job.write((models) => removeColourSet(models, setId));
      throw new PamperoError('nothing-coloured', {
        what: `No point of ${facts.name}, of the classes that were chosen, is seen by a photograph.`,
        fix: 'Choose other classes, or other photographs.',
      });
    }
    const share = (100 * coloured) / Math.max(1, coloured + unseen);
    return {
      outcome: [
        `${formatCount(coloured)} points coloured from ${product.name}, ${formatNumber(share, 1)} % of those asked for`,
        said,
      ].join('. '),
      figures: [
        { label: 'Points coloured', value: coloured, quantity: 'count' },
        { label: 'Seen by no photograph', value: unseen, quantity: 'count' },
        { label: 'Agreement of photographs', value: known(overlaps.agreement.correlation), quantity: 'text' },
      ],
      store: async (models) => ({ effects: [await finishColourSet(models, parameters.cloud, setId)] }),
    };
  };
}

const known = (value: number): string => (Number.isFinite(value) ? formatNumber(value, 2) : 'not known');

/** What photographs say of the same points, on an even sample of the cloud. */
async function compare(
  { job, pool, signal }: CloudPass,
  { product, posed, photographs, depths }: PhotographSite,
  stored: readonly StoredNode[],
  quantisation: ReturnType<typeof quantisationOf>,
): Promise<Overlaps> {
  const nodes = await readNodeColumns(job.read, evenSample(stored, SAMPLE), { attributes: false });
  const smallest = await Promise.all(
    photographs.map(async ({ levels }, k) => {
      const level = levels - 1;
      const bytes = await readTile(job.read, product.id, { part: `photograph-${k}`, level, x: 0, y: 0 });
      return { bytes: bytes!, level };
    }),
  );
  // Photographs that follow one another in the list overlap, so some in a row are enough.
  const first = Math.max(0, Math.floor((photographs.length - TRIED) / 2));
  const some = photographs.slice(first, first + TRIED);
  const otherways = otherwaysOf(product.facts.angles).map(({ axes }) =>
    some.map(({ east, north, up, angles }) => ({ east, north, up, axes: axes(angles) })),
  );
  return pool.run(
    'overlapsOf',
    { nodes, quantisation, photographs: posed, depths, smallest, otherways, first },
    signal,
    handOver(nodes),
  );
}

/**
 * Whether photographs agree about what they see, in words.
 * @throws PamperoError `photographs-disagree`, with the way to read the angles by which they would agree, if there is one
 */
function checkAgreement(
  { agreement, asRead, otherways }: Overlaps,
  { product }: PhotographSite,
  least: number,
): string {
  const { correlation, points } = agreement;
  const ways = otherwaysOf(product.facts.angles);
  const best = otherways
    .map((found, k) => ({ ...found, words: ways[k]!.words }))
    .filter((found) => found.points >= LEAST_COMPARED)
    .sort((a, b) => b.correlation - a.correlation)[0];
  const isBetter = best !== undefined && best.correlation > (asRead.correlation || 0) + CLEARLY && best.correlation > least; // prettier-ignore
  const advice = isBetter ? ` Read as ${best.words} they would agree by ${known(best.correlation)}.` : '';
  if (points < LEAST_COMPARED) {
    if (isBetter && best.points > points)
      throw new PamperoError('photographs-disagree', {
        what: `No two photographs see the same points as their angles are read.${advice} Nothing was coloured.`,
        fix: 'Import the photographs again with that choice.',
      });
    return 'Photographs hardly overlap, so whether they lie right could not be told';
  }
  if (correlation < least)
    throw new PamperoError('photographs-disagree', {
      what: `Photographs do not agree about what they see: their correlation is ${known(correlation)}, at least ${known(least)} was asked.${advice} Nothing was coloured.`,
      fix: isBetter
        ? 'Import the photographs again with that choice.'
        : 'Check how the angles are meant, the focal length, the pixel size, and that positions and cloud have the same heights.',
    });
  return `Photographs agree by ${known(correlation)} where two see the same`;
}

/** Blocks over the land of a cloud, as a frame of their own. */
function blocksOver({ min, max }: Box, pointCount: number): { frame: PictureFrame; side: number } {
  const [wide, high] = [Math.max(1e-6, max[0] - min[0]), Math.max(1e-6, max[1] - min[1])];
  const along = Math.max(1, Math.ceil(Math.sqrt(pointCount / POINTS_OF_BLOCK)));
  // A thousandth of a block is fine enough to say which one a point lies in.
  const cell = Math.max(wide, high) / along / 1000;
  return {
    frame: {
      columns: Math.max(1, Math.ceil(wide / cell)),
      rows: Math.max(1, Math.ceil(high / cell)),
      east: min[0],
      eastPerColumn: cell,
      eastPerRow: 0,
      north: max[1],
      northPerColumn: 0,
      northPerRow: -cell,
    },
    side: 1000,
  };
}

export const operation = serverOperation(colourFromPhotographs, work);
