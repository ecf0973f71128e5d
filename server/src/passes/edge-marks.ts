import { mkdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Job } from '@pampero/contract';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import type { Quantisation } from '@pampero/core/cloud';
import type { PlanBounds } from '@pampero/core/raster';
import type { IntegerPoints } from '@pampero/core/squares';
import { z } from 'zod';
import type { JobLibrary } from '../jobs/job-library.js';
import { reachesInto, readClouds } from './read-clouds.js';
import { listClouds, readCloudFacts } from '../store/cloud-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { writeWhole } from '../files/write-whole.js';

const triple = z.tuple([z.number(), z.number(), z.number()]);
const plan = z.object({ west: z.number(), south: z.number(), east: z.number(), north: z.number() });
const factsSchema = z.object({
  name: z.string(),
  land: plan,
  clouds: z.array(
    z.object({ fileName: z.string(), quantisation: z.object({ scale: triple, offset: triple }), count: z.int() }),
  ),
});
type EdgeFacts = z.infer<typeof factsSchema>;

/** A square that another machine works on, as its edges tell of it: its own points that others have in their margins. */
export interface EdgeMarks {
  readonly name: string;
  readonly land: PlanBounds;
  /** Its points from the file of that name, whose integers mean the same places. */
  readonly points: (fileName: string, isSame: (of: Quantisation) => boolean) => IntegerPoints[];
}

const ENDING = '.marks';
const pathOf = (folder: string, name: string): string => join(folder, `${name}${ENDING}`);

/** Writes the classes that a square's own points near its edges have, for machines that have no job of this square. */
export async function publishMarks(
  { library, pool }: { readonly library: JobLibrary; readonly pool: TaskPool },
  { id, name, square }: Job,
  reaches: readonly PlanBounds[],
  folder: string,
  signal: AbortSignal,
): Promise<void> {
  const file = await library.file(id);
  const letGo = file.hold();
  try {
    const found: IntegerPoints[] = [];
    const clouds: EdgeFacts['clouds'] = [];
    for (const cloud of await listClouds(file.read)) {
      const { source, quantisation } = await readCloudFacts(file.read, cloud.id);
      const read = await readClouds(file.read, [cloud.id], (box) => reaches.some((reach) => reachesInto(box, reach)));
      const task = { cloud: read.clouds[0]!, land: square!.land, reaches };
      const points = await pool.run('collectEdge', task, signal, read.transfer);
      found.push(points);
      clouds.push({ fileName: source.fileName, quantisation: { scale: [...quantisation.scale], offset: [...quantisation.offset] }, count: points.count }); // prettier-ignore
    }
    const facts: EdgeFacts = { name, land: square!.land, clouds };
    const arrays = Object.fromEntries(
      found.flatMap(({ x, y, z, classification, flags }, k) => Object.entries({ x, y, z, classification, flags }).map(([column, values]) => [`${column} ${k}`, values])), // prettier-ignore
    );
    await mkdir(folder, { recursive: true });
    await writeWhole(pathOf(folder, name), packArrays(arrays, facts));
  } finally {
    letGo();
  }
}

/** What a square's edges tell, if it has told it. */
export async function readMarks(folder: string, name: string): Promise<EdgeMarks | undefined> {
  const bytes = await readFile(pathOf(folder, name)).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return undefined;
    throw error;
  });
  if (!bytes) return undefined;
  const { arrays, facts } = unpackArrays(bytes);
  const { land, clouds } = factsSchema.parse(facts);
  return {
    name,
    land,
    points: (wanted, isSame) =>
      clouds.flatMap((cloud, k) => {
        if (cloud.fileName !== wanted || !isSame(cloud.quantisation)) return [];
        const of = (column: string): unknown => arrays[`${column} ${k}`];
        return [{ count: cloud.count, x: of('x'), y: of('y'), z: of('z'), classification: of('classification'), flags: of('flags') } as IntegerPoints]; // prettier-ignore
      }),
  };
}

/** Takes back what nobody needs any more. */
export async function removeMarks(folder: string, name: string): Promise<void> {
  await rm(pathOf(folder, name), { force: true });
}
