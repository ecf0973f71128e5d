import type { SurfaceFaultResource } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { never } from '../passes/cloud-pass.js';
import type { JobFile } from '../store/job-file.js';
import { readShownPart } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';

interface Window {
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}

/** Metres: what shows in contours at a quarter of a metre, and a gap that a house would leave. */
const LIMITS = { spike: 0.15, hole: 25 } as const;

/** Spikes, pits and holes of a surface, the worst first. */
export async function findSurfaceFaults(
  pool: TaskPool,
  { read }: JobFile,
  surfaceId: number,
  unit: LengthUnit,
): Promise<SurfaceFaultResource[]> {
  const metre = 1 / metresPer(unit);
  const limits = { spike: LIMITS.spike * metre, hole: LIMITS.hole * metre * metre };
  const tin = await readShownPart(read, 'surface', surfaceId, 'tin');
  return pool.run('faultsOfSurface', { tin, limits }, never);
}

/** A window of a surface as a grid, for display close up. */
export async function readSurfaceWindow(
  pool: TaskPool,
  { read }: JobFile,
  surfaceId: number,
  window: Window & { readonly cell: number },
): Promise<Uint8Array> {
  return pool.run('windowOfSurface', { tin: await readShownPart(read, 'surface', surfaceId, 'tin'), window }, never);
}

/** Edges of the triangles that touch a window. */
export async function readSurfaceEdges(
  pool: TaskPool,
  { read }: JobFile,
  surfaceId: number,
  window: Window,
): Promise<Uint8Array> {
  return pool.run('edgesOfSurface', { tin: await readShownPart(read, 'surface', surfaceId, 'tin'), window }, never);
}
