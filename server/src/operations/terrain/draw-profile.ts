import { drawProfile, type DrawProfileParameters, type Figure, type ProfileResource } from '@pampero/contract';
import { GROUND } from '@pampero/core/cloud';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { reachesInto, readClouds } from '../../passes/read-clouds.js';
import type { RunContext, RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Surfaces cut along a line, with the ground points near it. */
function work(parameters: DrawProfileParameters, surroundings: Surroundings): RunWork {
  return async (context) => {
    const { job, signal, report } = context;
    const { surfaceIds, line } = parameters;
    const { pool, unit, replaces } = surroundings;
    const surfaces: ProfileResource['surfaces'][number][] = [];
    for (const [k, id] of surfaceIds.entries()) {
      const { name } = await readProduct(job.read, id, 'surface');
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
    const points = await pointsNear(parameters, surroundings, context);
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
    const body: ProfileResource = { surfaces, points };
    return {
      outcome: `${formatCounted(surfaces.length, 'surface')} along ${formatNumber(length, 1)} ${lengthUnits[unit].short}`,
      figures,
      store: (models) =>
        storeProduct(models, {
          kind: 'profile',
          name: parameters.name ?? `Profile of ${surfaces.map((surface) => surface.name).join(', ')}`,
          operation: drawProfile.id,
          parameters,
          facts: { length, figures },
          blobs: { profile: new TextEncoder().encode(JSON.stringify(body)) },
          replaces,
        }),
    };
  };
}

async function pointsNear(
  { clouds: ids, line, depth }: DrawProfileParameters,
  { pool }: Surroundings,
  { job, signal, report }: RunContext,
): Promise<ProfileResource['points']> {
  if (ids.length === 0 || depth === 0) return { station: [], elevation: [] };
  report(0.75, 'Gathering points');
  const [east, north] = [line.map(([e]) => e), line.map(([, n]) => n)];
  const window = {
    west: Math.min(...east),
    south: Math.min(...north),
    east: Math.max(...east),
    north: Math.max(...north),
  };
  const { clouds, transfer } = await readClouds(job.read, ids, (box) => reachesInto(box, window, depth));
  const found = await pool.run('pointsAlong', { clouds, line, depth, classCode: GROUND }, signal, transfer);
  return { station: [...found.station], elevation: [...found.elevation] };
}

export const operation = serverOperation(drawProfile, work);
