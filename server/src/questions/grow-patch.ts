import type { Patch } from '@pampero/contract';
import type { Visible } from '@pampero/core/selection';
import type { z } from 'zod';
import type { patchRequestSchema } from '@pampero/contract';
import { never } from '../passes/cloud-pass.js';
import type { JobFile } from '../store/job-file.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { planSelection, readPlanned } from '../passes/select-points.js';

/** Grows a patch over the visible points round the one touched. */
export async function growPatchFrom(
  pool: TaskPool,
  job: JobFile,
  { seed, limit, reach, heightStep, colourStep, visible }: z.output<typeof patchRequestSchema>,
): Promise<Patch> {
  const shown = visible as Visible;
  const near = {
    min: seed.map((v) => v - limit) as [number, number, number],
    max: seed.map((v) => v + limit) as [number, number, number],
  };
  const box = shown.box
    ? {
        min: near.min.map((v, axis) => Math.max(v, shown.box!.min[axis]!)) as [number, number, number],
        max: near.max.map((v, axis) => Math.min(v, shown.box!.max[axis]!)) as [number, number, number],
      }
    : near;
  const plan = await planSelection(job, [{ how: 'add', shape: { kind: 'all' }, visible: { ...shown, box } }]);
  const nodes = await readPlanned(job, plan, colourStep !== undefined);
  const grown = await pool.run(
    'growPatchOver',
    {
      nodes,
      selection: plan.selection,
      seed,
      limit,
      rule: { reach, ...(heightStep !== undefined && { heightStep }), ...(colourStep !== undefined && { colourStep }) },
    },
    never,
  );
  return {
    points: grown.points,
    isCut: grown.isCut,
    nodes: grown.nodes.map(({ nodeId, bits }) => ({ nodeId, bits: Buffer.from(bits).toString('base64') })),
  };
}
