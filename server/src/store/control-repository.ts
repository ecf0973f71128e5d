import type { ListedPoint } from '@pampero/core/formats/point-list';
import type { ControlPointRow, Models } from './models.js';

export async function insertControl(
  models: Models,
  historyId: number,
  role: 'control' | 'check',
  points: readonly ListedPoint[],
): Promise<void> {
  await models.controlPoints.bulkCreate(points.map((point) => ({ ...point, historyId, role, isActive: true })));
}

export async function listControl(models: Models): Promise<ControlPointRow[]> {
  return (await models.controlPoints.findAll({
    where: { isActive: true },
    order: ['id'],
    raw: true,
  })) as unknown as ControlPointRow[];
}

export function countControl(models: Models): Promise<number> {
  return models.controlPoints.count({ where: { isActive: true } });
}

/** Changes when points come in or are taken back. */
export async function controlRevision(models: Models): Promise<string> {
  const rows = (await models.controlPoints.findAll({
    where: { isActive: true },
    attributes: ['historyId'],
    group: ['historyId'],
    order: ['historyId'],
    raw: true,
  })) as unknown as Pick<ControlPointRow, 'historyId'>[];
  return rows.map(({ historyId }) => historyId).join(' ');
}
