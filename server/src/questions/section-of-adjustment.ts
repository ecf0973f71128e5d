import { packArrays } from '@pampero/core/binary';
import type { StripSection } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { never, overGroups } from '../passes/cloud-pass.js';
import { groupNodes } from '../passes/node-groups.js';
import { correctedFlight } from '../passes/strip-flight.js';
import { stripCloudOf, stripSite } from '../passes/strip-site.js';
import { readCloud } from '../store/cloud-repository.js';
import type { JobFile } from '../store/job-file.js';
import { readProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Points of a section that are told at most; of more, one in so many. */
const MOST_POINTS = 60_000;

interface SectionPlace {
  readonly a: readonly [number, number];
  readonly b: readonly [number, number];
  readonly depth: number;
}

/**
 * A section through the strips as they are and as an adjustment would have them, before anything moves. Packed: `along`, `elevation`, `alongAfter`,
 * `elevationAfter` and `strip`, a place in the adjustment's list of strips; NaN along where a point is not on the section.
 * @throws PamperoError `cloud-moved` where the cloud is shown at other positions than it was adjusted at
 */
export async function sectionOfAdjustment(
  pool: TaskPool,
  job: JobFile,
  adjustmentId: number,
  { a, b, depth }: SectionPlace,
): Promise<Uint8Array> {
  const pass = { pool, job, signal: never };
  const { facts, name } = await readProduct(job.read, adjustmentId, 'adjustment');
  const { positions } = await readCloud(job.read, facts.cloudId);
  if (positions.shown !== facts.positions)
    throw new PamperoError('cloud-moved', {
      what: `${name} was reckoned from other positions of the cloud than it is shown at now.`,
      fix: 'Show the cloud at those positions again to see the section before and after.',
    });
  const site = await stripSite(pass, facts.cloudId, facts.stripsId, { least: 1 });
  const flight = await correctedFlight(pass, facts);
  const { scale, offset } = site.quantisation;
  const reach = 2 * depth;
  const [west, east] = [Math.min(a[0], b[0]) - reach, Math.max(a[0], b[0]) + reach];
  const [south, north] = [Math.min(a[1], b[1]) - reach, Math.max(a[1], b[1]) + reach];
  const near = site.nodes.filter(
    ({ minX, maxX, minY, maxY }) =>
      minX * scale[0] + offset[0] <= east &&
      maxX * scale[0] + offset[0] >= west &&
      minY * scale[1] + offset[1] <= north &&
      maxY * scale[1] + offset[1] >= south,
  );
  // About how many points lie there, from how much of each node's box the section takes.
  const expected = near.reduce((sum, { count, minX, maxX, minY, maxY }) => {
    const area = Math.max(1e-9, (maxX - minX) * scale[0] * (maxY - minY) * scale[1]);
    return sum + count * Math.min(1, (Math.hypot(b[0] - a[0], b[1] - a[1]) * depth) / area);
  }, 0);
  const stride = Math.max(1, Math.ceil(expected / MOST_POINTS));
  const parts = await overGroups(pass, groupNodes(near), { attributes: true }, (nodes, _group, transfer) =>
    pool.run(
      'sectionOfStrips',
      {
        ...stripCloudOf(site, nodes),
        ...flight,
        ...{ a, b, halfDepth: depth / 2, stride },
      },
      never,
      transfer,
    ),
  );
  return packArrays(
    {
      along: joined(parts, 'along', Float32Array),
      elevation: joined(parts, 'elevation', Float64Array),
      alongAfter: joined(parts, 'alongAfter', Float32Array),
      elevationAfter: joined(parts, 'elevationAfter', Float64Array),
      strip: joined(parts, 'strip', Uint16Array),
    },
    {},
  );
}

function joined<K extends keyof StripSection>(
  parts: readonly StripSection[],
  name: K,
  Type: new (length: number) => StripSection[K],
): StripSection[K] {
  const out = new Type(parts.reduce((sum, part) => sum + part[name].length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part[name], at);
    at += part[name].length;
  }
  return out;
}
