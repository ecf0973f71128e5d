import { drawProfile, type DrawProfileParameters, type Figure, type ProfileResource } from '@pampero/contract';
import { GROUND } from '@pampero/core/cloud';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { RunWork } from '../runs/run-service.js';
import type { Models } from '../jobs/models.js';
import { listStoredNodes, quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { readProductBlob, readShownPart, readSurface, storeProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { handOver, readNodeColumns } from './node-groups.js';
import { boxOf } from './select-points.js';

/** Surfaces cut along a line, with the ground points beside it. */
export function drawProfileWork(pool: TaskPool, parameters: DrawProfileParameters, unit: LengthUnit): RunWork {
  return async ({ job, signal, report }) => {
    const { surfaceIds, line, cloudId, depth } = parameters;
    const surfaces: ProfileResource['surfaces'][number][] = [];
    for (const [k, id] of surfaceIds.entries()) {
      const { name } = await readSurface(job.read, id);
      report((0.7 * k) / surfaceIds.length, `Cutting ${name}`);
      const tin = await readProductBlob(job.read, id, 'tin');
      const { station, easting, northing, elevation } = await pool.run('profileOfSurface', { tin, line }, signal);
      surfaces.push({
        id,
        name,
        station: [...station],
        easting: [...easting],
        northing: [...northing],
        elevation: Array.from(elevation, (z) => (Number.isNaN(z) ? null : z)),
      });
    }
    const points = { station: [] as number[], elevation: [] as number[] };
    if (cloudId !== undefined && depth > 0) {
      report(0.75, 'Gathering points');
      const facts = await readCloudFacts(job.read, cloudId);
      const [east, north] = [line.map(([e]) => e), line.map(([, n]) => n)];
      const nodes = (await listStoredNodes(job.read, cloudId)).filter((node) => {
        const { min, max } = boxOf(node, facts);
        return (
          max[0] >= Math.min(...east) - depth &&
          min[0] <= Math.max(...east) + depth &&
          max[1] >= Math.min(...north) - depth &&
          min[1] <= Math.max(...north) + depth
        );
      });
      const read = await readNodeColumns(job.read, nodes, { attributes: false });
      const task = { nodes: read, quantisation: quantisationOf(facts), line, depth, classCode: GROUND };
      const found = await pool.run('pointsAlong', task, signal, handOver(read));
      points.station = [...found.station];
      points.elevation = [...found.elevation];
    }
    const length = line.slice(1).reduce((sum, [e, n], k) => sum + Math.hypot(e - line[k]![0], n - line[k]![1]), 0);
    const figures: Figure[] = [
      { label: 'Length in plan', value: length, quantity: 'length' },
      ...surfaces.flatMap(({ name, elevation }): Figure[] => {
        const known = elevation.filter((z) => z !== null);
        if (known.length === 0) return [{ label: name, value: 'does not lie under the line', quantity: 'text' }];
        const [low, high] = [known.reduce((a, b) => Math.min(a, b)), known.reduce((a, b) => Math.max(a, b))];
        return [
          { label: `${name}, lowest`, value: low, quantity: 'length' },
          { label: `${name}, highest`, value: high, quantity: 'length' },
        ];
      }),
    ];
    const name = parameters.name ?? `Profile of ${surfaces.map((surface) => surface.name).join(', ')}`;
    const body: ProfileResource = { surfaces, points };
    return {
      outcome: `${surfaces.length} ${surfaces.length === 1 ? 'surface' : 'surfaces'} along ${length.toFixed(1)} ${lengthUnits[unit].short}`,
      figures,
      store: (models) =>
        storeProduct(models, {
          kind: 'profile',
          name,
          inputId: surfaceIds[0]!,
          inputRevision: 0,
          operation: drawProfile.id,
          parameters,
          facts: { length, figures, otherInputs: surfaceIds.slice(1) },
          blobs: { profile: new TextEncoder().encode(JSON.stringify(body)) },
        }),
    };
  };
}

export async function readProfile(models: Models, profileId: number): Promise<ProfileResource> {
  return JSON.parse((await readShownPart(models, 'profile', profileId, 'profile')).toString()) as ProfileResource;
}
