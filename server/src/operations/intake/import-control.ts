import { importControl, type Cloud, type ImportControlParameters } from '@pampero/contract';
import { FormatError } from '@pampero/core/formats';
import { exchanged, type ListedPoint, type PointOrder } from '@pampero/core/formats/point-list';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { listClouds } from '../../store/cloud-repository.js';
import { insertControl } from '../../store/control-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Takes surveyed points into the job; a list that cannot be read is refused before the run begins. */
async function begin(
  { order, role }: ImportControlParameters,
  { pool, source, file }: FileSurroundings,
): Promise<RunWork> {
  const { path, fileName } = source;
  const points = await pool.read('pointsOfList', { path, fileName, order }, source);
  refuseExchanged(points, order, await listClouds(file.read), fileName);
  return ({ historyId }) =>
    Promise.resolve({
      outcome: `${formatCount(points.length)} ${role} points from ${fileName}`,
      figures: [{ label: 'Points', value: points.length, quantity: 'count' as const }],
      store: async (models) => {
        await insertControl(models, historyId, role, points);
        return { effects: [{ kind: 'control', id: historyId }] };
      },
    });
}

/** Points that lie in no cloud as they are, and in one with easting and northing the other way round, were read in the wrong order. */
function refuseExchanged(
  points: readonly ListedPoint[],
  order: PointOrder,
  clouds: readonly Cloud[],
  fileName: string,
): void {
  const isOver = (east: number, north: number): boolean =>
    clouds.some(({ bounds: { min, max } }) => east >= min[0] && east <= max[0] && north >= min[1] && north <= max[1]);
  const asRead = points.filter(({ easting, northing }) => isOver(easting, northing)).length;
  const otherWay = points.filter(({ easting, northing }) => isOver(northing, easting)).length;
  if (asRead > 0 || otherWay === 0) return;
  throw new FormatError('axes-swapped', {
    what: `None of the ${formatCount(points.length)} points lies in a cloud, and ${formatCount(otherWay)} do with easting and northing exchanged.`,
    where: fileName,
    fix: `Choose the order ${exchanged(order)}.`,
  });
}

export const operation = fileOperation(importControl, begin);
