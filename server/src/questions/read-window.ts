import type { CloudWindow } from '@pampero/contract';
import { Outline, type BoxRelation, type Place } from '@pampero/core/selection';
import { never } from '../passes/cloud-pass.js';
import type { JobFile } from '../store/job-file.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { countNodeClasses, listStoredNodes } from '../store/node-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { groupNodes, mapWide, readNodeColumns } from '../passes/node-groups.js';

/** What lies within an outline; only nodes that the outline reaches are read. */
export async function readWindow(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  { outline, classes }: { outline: readonly Place[]; classes?: readonly number[] | undefined },
): Promise<CloudWindow> {
  const quantisation = quantisationOf(await readCloudFacts(job.read, cloudId));
  const { scale, offset } = quantisation;
  const shape = new Outline(outline);
  const nodes = await listStoredNodes(job.read, cloudId);
  const related = nodes.map((node) => ({
    node,
    relation: shape.relationOf(
      node.minX * scale[0] + offset[0],
      node.minY * scale[1] + offset[1],
      node.maxX * scale[0] + offset[0],
      node.maxY * scale[1] + offset[1],
    ),
  }));
  const having = (relation: BoxRelation) => related.filter((r) => r.relation === relation).map(({ node }) => node);
  // Of a node that lies wholly within, all that is asked is known without reading it, unless only some classes count.
  const known = classes ? [] : having('inside');
  const read = classes ? [...having('inside'), ...having('crossing')] : having('crossing');
  const parts = await mapWide(groupNodes(read), pool.threads, async (group) => {
    const columns = await readNodeColumns(job.read, group, { attributes: false });
    return pool.run('countWindow', { nodes: columns, quantisation, outline, classes }, never);
  });
  const counts = await countNodeClasses(
    job.read,
    known.map(({ id }) => id),
  );
  let points = Object.values(counts).reduce((sum, count) => sum + count, 0);
  let [lowest, highest] = [Infinity, -Infinity];
  const reach = (low: number, high: number): void => {
    lowest = Math.min(lowest, low);
    highest = Math.max(highest, high);
  };
  for (const { minZ, maxZ } of known) reach(minZ * scale[2] + offset[2], maxZ * scale[2] + offset[2]);
  for (const part of parts) {
    part.counts.forEach((count, code) => {
      if (count > 0) counts[code] = (counts[code] ?? 0) + count;
      points += count;
    });
    reach(part.lowest, part.highest);
  }
  return {
    points,
    classCounts: counts,
    ...(points > 0 && { lowest, highest }),
    nodesRead: read.length,
    nodes: nodes.length,
  };
}
