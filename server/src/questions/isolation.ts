import { addLoneliness, FURTHEST_SPACINGS, proposeIsolation, type IsolatedOptions } from '@pampero/core/cleaning';
import { NOISE_CLASSES } from '@pampero/core/cloud';
import { averageSpacing } from '../passes/cloud-spacing.js';
import { never, overTiles } from '../passes/cloud-pass.js';
import { handOver } from '../passes/node-groups.js';
import { boxOf } from '../passes/select-points.js';
import { spatialTiles } from '../passes/spatial-tiles.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes } from '../store/node-repository.js';
import type { JobFile } from '../store/job-file.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Pieces of land looked at in full, spread over the cloud, and about how many points each has. */
const PIECES = 6;
const PIECE_POINTS = 150_000;

/** Radius and neighbours that tell what is isolated in a cloud, from how its own points lie. */
export async function proposeIsolationIn(pool: TaskPool, job: JobFile, cloudId: number): Promise<IsolatedOptions> {
  const facts = await readCloudFacts(job.read, cloudId);
  const quantisation = quantisationOf(facts);
  const spacing = averageSpacing(facts);
  const margin = spacing * FURTHEST_SPACINGS;
  const tiles = spatialTiles(
    await listStoredNodes(job.read, cloudId),
    (node) => boxOf(node, facts),
    margin,
    PIECE_POINTS,
  );
  const step = Math.max(1, tiles.length / PIECES);
  const chosen = Array.from({ length: Math.min(PIECES, tiles.length) }, (_, k) => tiles[Math.floor((k + 0.5) * step)]!);
  const takes = new Uint8Array(256).fill(1);
  for (const code of NOISE_CLASSES) takes[code] = 0;
  const parts = await overTiles({ pool, job, signal: never }, chosen, {}, (nodes, tile) =>
    pool.run('tileLoneliness', { nodes, quantisation, tile, margin, takes, spacing }, never, handOver(nodes)),
  );
  return proposeIsolation(addLoneliness(parts));
}
