import { joinClouds, type JoinCloudsParameters } from '@pampero/contract';
import type { ColumnArray, PointBatch, PointColumns, Quantisation } from '@pampero/core/cloud';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { lasOptions } from '../../passes/las-options.js';
import type { RunWork } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes, readNodePoints } from '../../store/node-repository.js';
import type { JobFile } from '../../store/job-file.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { writtenCloud } from './written-cloud.js';

type Facts = CloudFacts & { readonly id: number; readonly name: string; readonly pointCount: number };

/** One cloud of several: with all attributes that any of them has, in the finest of their scales. */
function work({ clouds, name: given }: JoinCloudsParameters, surroundings: Surroundings): RunWork {
  return async (context) => {
    const { job, report } = context;
    const ids = [...new Set(clouds)];
    if (ids.length < 2)
      throw new PamperoError('nothing-selected', {
        what: 'The same cloud was chosen twice.',
        fix: 'Choose at least two different clouds.',
      });
    const parts: Facts[] = [];
    for (const id of ids) parts.push({ id, ...(await readCloudFacts(job.read, id)) });
    const joined = joinedFacts(parts);
    const total = parts.reduce((sum, { pointCount }) => sum + pointCount, 0);
    const name = given ?? parts.map((part) => part.name).join(' and ');
    const options = lasOptions(surroundings.job, joined, { version: '1.4', format: 'las' });
    const points = joinedPoints(job, parts, joined, (written) => {
      checkCancelled(context.signal);
      report((0.3 * written) / total, 'Writing points');
    });
    const made = await writtenCloud(name, points, options, surroundings, {
      ...context,
      report: (share, step) => report(0.3 + 0.7 * share, step),
    });
    const dropped = parts.filter((part) => part.columns.extraBytesLength > 0 && !sameExtraBytes(parts));
    return {
      ...made,
      outcome: `${formatCount(total)} points of ${parts.map((part) => part.name).join(', ')} joined to ${name}`,
      figures: [
        ...parts.map((part) => ({ label: part.name, value: part.pointCount, quantity: 'count' as const })),
        ...dropped.map((part) => ({
          label: 'Left out',
          value: `extra bytes of ${part.name}: the clouds do not have the same`,
          quantity: 'text' as const,
        })),
      ],
    };
  };
}

/** Whether all describe the same extra bytes. */
function sameExtraBytes(parts: readonly Facts[]): boolean {
  const said = ({ columns, records }: Facts): string =>
    JSON.stringify([columns.extraBytesLength, records.find(isExtraBytes)?.data ?? '']);
  return parts.every((part) => said(part) === said(parts[0]!));
}

/** The record of LAS 1.4 that describes extra bytes (LASF_Spec, 4). */
function isExtraBytes({ userId, recordId }: CloudFacts['records'][number]): boolean {
  return userId === 'LASF_Spec' && recordId === 4;
}

function joinedFacts(parts: readonly Facts[]): CloudFacts {
  const [first] = parts as [Facts];
  const some = (has: (columns: PointColumns) => boolean): boolean => parts.some(({ columns }) => has(columns));
  const columns: PointColumns = {
    gpsTime: some((c) => c.gpsTime),
    rgb: some((c) => c.rgb || c.nearInfrared),
    nearInfrared: some((c) => c.nearInfrared),
    wavePacket: false, // they point into a file of their own
    extraBytesLength: sameExtraBytes(parts) ? first.columns.extraBytesLength : 0,
  };
  const scale = [0, 1, 2].map((axis) => Math.min(...parts.map(({ quantisation }) => quantisation.scale[axis]!)));
  const records = first.records.filter((record) => !isExtraBytes(record) || columns.extraBytesLength > 0);
  return {
    ...first,
    columns,
    records,
    quantisation: { scale: scale as [number, number, number], offset: first.quantisation.offset },
    isStandardGpsTime: parts.every(({ isStandardGpsTime }) => isStandardGpsTime),
  };
}

async function* joinedPoints(
  job: JobFile,
  parts: readonly Facts[],
  { columns, quantisation }: CloudFacts,
  onWritten: (points: number) => void,
): AsyncGenerator<PointBatch> {
  let written = 0;
  for (const part of parts)
    for (const node of await listStoredNodes(job.read, part.id)) {
      const batch = await readNodePoints(job.read, node, part);
      onWritten((written += batch.count));
      yield fitted(batch, part.quantisation as Quantisation, quantisation as Quantisation, columns, part.name);
    }
}

/** A batch in another scale, with the attributes of the whole; those it lacks are nought. */
function fitted(
  { wavePacket: _, ...batch }: PointBatch,
  from: Quantisation,
  to: Quantisation,
  columns: PointColumns,
  name: string,
): PointBatch {
  const { count } = batch;
  const moved = (values: Int32Array, axis: 0 | 1 | 2): Int32Array => {
    const [factor, shift] = [from.scale[axis] / to.scale[axis], (from.offset[axis] - to.offset[axis]) / to.scale[axis]];
    if (factor === 1 && shift === 0) return values;
    const out = new Int32Array(count);
    for (let i = 0; i < count; i++) {
      const value = Math.round(values[i]! * factor + shift);
      if (value !== (value | 0))
        throw new PamperoError('clouds-too-far-apart', {
          what: `${name} is too far from the first cloud to share its scale.`,
          fix: 'Check that both are in the same coordinate system.',
        });
      out[i] = value;
    }
    return out;
  };
  const filled = <A extends ColumnArray>(values: A | undefined, wanted: boolean, make: () => A): A | undefined =>
    wanted ? (values ?? make()) : undefined;
  const short = (): Uint16Array => new Uint16Array(count);
  const { gpsTime, red, green, blue, nearInfrared, extraBytes, ...rest } = batch;
  const more = {
    gpsTime: filled(gpsTime, columns.gpsTime, () => new Float64Array(count)),
    red: filled(red, columns.rgb, short),
    green: filled(green, columns.rgb, short),
    blue: filled(blue, columns.rgb, short),
    nearInfrared: filled(nearInfrared, columns.nearInfrared, short),
    extraBytes: filled(
      columns.extraBytesLength > 0 ? extraBytes : undefined,
      columns.extraBytesLength > 0,
      () => new Uint8Array(count * columns.extraBytesLength),
    ),
  };
  return {
    ...rest,
    ...Object.fromEntries(Object.entries(more).filter(([, values]) => values !== undefined)),
    x: moved(batch.x, 0),
    y: moved(batch.y, 1),
    z: moved(batch.z, 2),
  };
}

export const operation = serverOperation(joinClouds, work);
