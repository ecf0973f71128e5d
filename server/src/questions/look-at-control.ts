import type { ControlLook } from '@pampero/contract';
import { differencePattern, localElevation } from '@pampero/core/accuracy';
import { GROUND } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { never } from '../passes/cloud-pass.js';
import type { JobFile } from '../store/job-file.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes } from '../store/node-repository.js';
import { listControl } from '../store/control-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { mapWide, readNodeColumns } from '../passes/node-groups.js';

/** About three point spacings of a usual flight, and well under the width of a road. */
const RADIUS_METRES = 1;
/** Without classes, only what lies this low above the lowest near point can be the surface that was surveyed. */
const LOW_METRES = 0.5;

/** Each surveyed point with the cloud's elevation there: a plane through ground points near it, or through the lowest. */
export async function lookAtControl(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
): Promise<ControlLook> {
  const facts = await readCloudFacts(job.read, cloudId);
  const quantisation = quantisationOf(facts);
  const points = await listControl(job.read);
  const radius = RADIUS_METRES / metresPer(unit);
  const { scale, offset } = quantisation;
  const nodes = (await listStoredNodes(job.read, cloudId)).filter((node) =>
    points.some(
      ({ easting, northing }) =>
        node.minX * scale[0] + offset[0] <= easting + radius &&
        node.maxX * scale[0] + offset[0] >= easting - radius &&
        node.minY * scale[1] + offset[1] <= northing + radius &&
        node.maxY * scale[1] + offset[1] >= northing - radius,
    ),
  );
  const near = points.map(() => ({
    east: [] as number[],
    north: [] as number[],
    elevation: [] as number[],
    classCode: [] as number[],
  }));
  await mapWide(nodes, pool.threads, async (node) => {
    const found = await pool.run(
      'nearPlaces',
      {
        nodes: await readNodeColumns(job.read, [node], { attributes: false }),
        quantisation,
        places: points.map(({ easting, northing }) => [easting, northing] as const),
        radius,
      },
      never,
    );
    for (const { place, east, north, elevation, classCode } of found) {
      const to = near[place]!;
      to.east.push(east);
      to.north.push(north);
      to.elevation.push(elevation);
      to.classCode.push(classCode);
    }
  });
  const looked = points.map(({ id, number, northing, easting, elevation, code, role }, k) => {
    const found = surfaceAt(near[k]!, LOW_METRES / metresPer(unit));
    return {
      ...{ id, number, northing, easting, elevation, code, role },
      nearPoints: found?.points ?? 0,
      ...(found && { cloudElevation: found.elevation, difference: found.elevation - elevation }),
    };
  });
  const pattern = differencePattern(
    looked.flatMap((point) => (point.difference === undefined ? [] : [{ ...point, difference: point.difference }])),
  );
  const { unitRatio, ...figures } = pattern ?? {};
  return {
    radius,
    points: looked,
    ...(pattern && { pattern: { ...(figures as Omit<typeof pattern, 'unitRatio'>), ...(unitRatio && { unitRatio }) } }),
  };
}

function surfaceAt(
  { east, north, elevation, classCode }: { east: number[]; north: number[]; elevation: number[]; classCode: number[] },
  low: number,
) {
  const all = [...elevation.keys()];
  const ground = all.filter((i) => classCode[i] === GROUND);
  const lowest = elevation.reduce((least, z) => Math.min(least, z), Infinity);
  const chosen = ground.length >= 4 ? ground : all.filter((i) => elevation[i]! <= lowest + low);
  const of = (values: number[]): number[] => chosen.map((i) => values[i]!);
  return localElevation(of(east), of(north), of(elevation));
}
