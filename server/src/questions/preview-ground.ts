import { findGround, type GroundPreview } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { never } from '../passes/cloud-pass.js';
import type { JobFile } from '../store/job-file.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes } from '../store/node-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { groundTakes } from '../operations/classify/find-ground.js';
import { formatCount } from '@pampero/core/wording';
import { handOver, readNodeColumns } from '../passes/node-groups.js';
import { reachesInto } from '../passes/read-clouds.js';
import { boxOf } from '../passes/select-points.js';

/** More than this is not looked at in the moment that a preview may take. */
const MOST_POINTS = 4_000_000;

/** What settings would change within a window, seen before it is done; or where two settings differ. */
export async function previewGroundIn(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
  {
    window,
    parameters,
    against,
  }: { window: Window; parameters: Record<string, unknown>; against?: Record<string, unknown> | undefined },
): Promise<GroundPreview> {
  const schema = findGround.parameters(unit);
  const settings = schema.parse({ ...parameters, clouds: [cloudId] });
  const others = against && schema.parse({ ...against, clouds: [cloudId] });
  const facts = await readCloudFacts(job.read, cloudId);
  // The window of the search reaches beyond what is seen.
  const margin = settings.largestBuilding;
  const nodes = (await listStoredNodes(job.read, cloudId)).filter((node) =>
    reachesInto(boxOf(node, facts), window, margin),
  );
  const points = nodes.reduce((sum, { count }) => sum + count, 0);
  if (points > MOST_POINTS)
    throw new PamperoError('window-too-large', {
      what: `The view has ${formatCount(points)} points; a preview takes at most ${formatCount(MOST_POINTS)}.`,
      fix: 'Zoom in, or run it on the whole cloud. You can undo it.',
    });
  const read = await readNodeColumns(job.read, nodes, { attributes: true });
  const {
    gained,
    lost,
    nodes: changed,
  } = await pool.run(
    'previewGround',
    {
      nodes: read,
      quantisation: quantisationOf(facts),
      columns: facts.columns,
      attributeNames: facts.attributeNames,
      takes: groundTakes(),
      settings,
      against: others,
      metresPerUnit: metresPer(unit),
      window,
    },
    never,
    handOver(read),
  );
  return {
    gained,
    lost,
    nodes: changed.map(({ nodeId, bits, kept }) => ({
      nodeId,
      bits: Buffer.from(bits).toString('base64'),
      ...(kept && { kept: Buffer.from(kept).toString('base64') }),
    })),
  };
}

interface Window {
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}
