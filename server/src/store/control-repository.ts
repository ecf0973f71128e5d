import type { ListedPoint } from '@pampero/core/formats/point-list';
import type { ControlPointRow, Models } from '../jobs/models.js';

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
