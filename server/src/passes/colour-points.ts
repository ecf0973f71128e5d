import { PICTURE_TILE } from '@pampero/contract';
import { picturePlan } from '@pampero/core/imagery';
import type { RunContext } from '../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import type { ColouredPart, ColourTask } from '../tasks/picture-tasks.js';
import type { CloudPass } from './cloud-pass.js';
import { BLOCK_POINTS, colourByBlocks } from './colour-blocks.js';
import { handOver } from './node-groups.js';
import { frameOf, readLevel, type PictureFacts } from './picture-site.js';

/** Tiles along the side of a block at most. */
const MOST_TILES = 8;

/**
 * Colours the points of a cloud from a picture, square after square of the picture, so that each of its tiles is decoded once, whatever
 * nodes lie over it.
 * @returns the set, to be taken up with the field book's entry
 */
export async function colourPoints(
  pass: CloudPass & Pick<RunContext, 'historyId'>,
  cloudId: number,
  picture: { readonly id: number; readonly facts: PictureFacts },
  choice: Pick<ColourTask, 'classes' | 'withWithheld' | 'surface'>,
  onShare: (share: number) => void,
): Promise<ColouredPart & { readonly setId: number }> {
  const { job, pool, signal } = pass;
  const facts = await readCloudFacts(job.read, cloudId);
  const { attributeNames: names, columns } = facts;
  const frame = frameOf(picture.facts);
  const { min, max } = facts.bounds;
  const plan = picturePlan(frame);
  const perTile = (facts.pointCount * ((plan.east - plan.west) * (plan.north - plan.south)) * PICTURE_TILE ** 2) / Math.max(1e-9, (max[0] - min[0]) * (max[1] - min[1]) * frame.columns * frame.rows); // prettier-ignore
  const side =
    PICTURE_TILE * Math.max(1, Math.min(MOST_TILES, Math.round(Math.sqrt(BLOCK_POINTS / Math.max(1, perTile)))));
  const { setId, parts } = await colourByBlocks(
    pass,
    cloudId,
    { frame, side },
    async ({ block, plan: around, nodes, colours }) => {
      const level = await readLevel(job.read, picture.id, picture.facts, 0, around);
      const task = { nodes, colours, block, quantisation: quantisationOf(facts), names, columns, picture: level };
      return pool.run('colourBlock', { ...task, ...choice }, signal, handOver(nodes));
    },
    onShare,
  );
  const sum = (of: (part: ColouredPart) => number): number => parts.reduce((all, part) => all + of(part), 0);
  return {
    setId,
    coloured: sum(({ coloured }) => coloured),
    outside: sum(({ outside }) => outside),
    tooHigh: sum(({ tooHigh }) => tooHigh),
  };
}
