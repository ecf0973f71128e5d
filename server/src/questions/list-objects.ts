import type { ObjectGroupResource } from '@pampero/contract';
import { classMask, GROUND } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { groundModel, groupObjects, mergeGround, newGroundSums, type ClassCells } from '@pampero/core/objects';
import { eachSharedCell } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import type { JobFile } from '../store/job-file.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { never, overGroups, type CloudPass } from '../passes/cloud-pass.js';
import { averageSpacing } from '../passes/cloud-spacing.js';
import { nodeGroups } from '../passes/node-groups.js';
import { frameOver, partFrame } from '../passes/raster-frames.js';

/** Classes that come as objects: high vegetation, buildings, wires and what carries them, the surveyor's own. */
const STANDARD: readonly number[] = [5, 6, 13, 14, 15, 16, 17, 19];
/** What stands beside an object without being one. */
const BESIDE: readonly number[] = [1, 3, 4];
const LEAST_POINTS = 6;
const MOST_LISTED = 2000;
const MOST_CELLS = 4_000_000;

/** What stands on the ground of a cloud, thing by thing, the least sure first. */
export async function listObjects(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
): Promise<ObjectGroupResource[]> {
  const facts = await readCloudFacts(job.read, cloudId);
  const quantisation = quantisationOf(facts);
  const spacing = averageSpacing(facts);
  const area = spacing ** 2 * facts.pointCount;
  const cell = Math.max(0.7 / metresPer(unit), 1.6 * spacing, Math.sqrt(area / MOST_CELLS));
  const frame = frameOver(facts, Number(cell.toPrecision(2)));
  const cells = frame.columns * frame.rows;
  const asked = [...STANDARD, ...Array.from({ length: 192 }, (_, k) => 64 + k)].filter((code) => code < 80);
  const classes = [...asked, ...BESIDE];
  const masks = [classMask([GROUND])];
  const sums = newGroundSums(frame);
  const whole = new Map<number, ClassCells>();
  const pass: CloudPass = { pool, job, signal: never };
  await overGroups(pass, await nodeGroups(job.read, cloudId), {}, async (nodes, group, transfer) => {
    const part = partFrame(frame, group, facts);
    const [own] = await pool.run('classSums', { nodes, quantisation, frame: part, masks }, never);
    mergeGround(sums, own!);
    const present = classes.filter((code) => nodes.some(({ classification }) => classification.includes(code)));
    const task = { nodes, quantisation, frame: part, classes: present };
    const found = await pool.run('classCells', task, never, transfer);
    found.forEach((own, k) => {
      const code = present[k]!;
      const into = whole.get(code) ?? {
        ...frame,
        count: new Uint32Array(cells),
        highest: new Float64Array(cells).fill(-Infinity),
      };
      whole.set(code, into);
      eachSharedCell(frame, own, (at, i) => {
        if (own.count[i] === 0) return;
        into.count[at]! += own.count[i]!;
        if (own.highest[i]! > into.highest[at]!) into.highest[at] = own.highest[i]!;
      });
    });
  });
  const ground = groundModel(sums, quantisation);
  if (!ground)
    throw new PamperoError('no-ground', {
      what: `The cloud ${facts.name} has no ground points to measure heights from.`,
      fix: 'Find its ground first.',
    });
  const all = new Uint32Array(cells);
  for (const { count } of whole.values()) count.forEach((n, i) => (all[i]! += n));
  return asked
    .flatMap((code) => {
      const own = whole.get(code);
      return own ? groupObjects(code, own, all, ground, LEAST_POINTS) : [];
    })
    .sort((a, b) => a.confidence - b.confidence)
    .slice(0, MOST_LISTED)
    .map((group) => ({ ...group, footprint: group.footprint.map(([e, n]) => [e, n] as [number, number]) }));
}
