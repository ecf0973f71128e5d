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

/** Survey points that came in together, by the step that brought them. */
export interface ControlList {
  readonly id: number;
  /** "Check points, pegs.csv". */
  readonly name: string;
  readonly points: number;
}

export async function listControlLists(models: Models): Promise<ControlList[]> {
  const [rows] = await models.controlPoints.sequelize!.query(
    `SELECT historyId AS id, role, COUNT(*) AS points, json_extract(history.parameters, '$.fileName') AS fileName
     FROM control_points LEFT JOIN history ON history.id = historyId WHERE isActive = 1 GROUP BY historyId, role ORDER BY historyId`,
  );
  return (rows as { id: number; role: string; points: number; fileName: string | null }[]).map((row) => ({
    id: row.id,
    name: [row.role === 'check' ? 'Check points' : 'Control points', ...(row.fileName ? [row.fileName] : [])].join(
      ', ',
    ),
    points: row.points,
  }));
}
