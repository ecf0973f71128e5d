import { QueryTypes } from 'sequelize';
import type { Cloud } from '@pampero/contract';
import { asBuffer } from './cloud-repository.js';
import type { CloudRow, Models } from './models.js';
import { storedJson } from './stored-json.js';

/** Positions that points were moved to: as imported is no set. */
export interface PositionSetFacts {
  readonly bounds: Cloud['bounds'];
  /** What moved them, one line. */
  readonly because: string;
}

/** A node at its new place. */
export interface MovedNode {
  readonly nodeId: number;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
  readonly geometry: Uint8Array;
}

/** Begins a set; until it is taken up by {@link takePositions} nobody sees it, and opening the job clears it away. */
export async function beginPositionSet(models: Models, cloudId: number, historyId: number): Promise<number> {
  const row = await models.positionSets.create({ cloudId, historyId, state: 'moving', name: '', facts: '{}' });
  return row.get('id') as number;
}

export async function insertMovedNodes(models: Models, setId: number, nodes: readonly MovedNode[]): Promise<void> {
  for (const { nodeId, min, max, geometry } of nodes)
    await models.nodes.sequelize!.query(
      'INSERT INTO moved_nodes (setId, nodeId, minX, minY, minZ, maxX, maxY, maxZ, bytes) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)',
      { bind: [setId, nodeId, ...min, ...max, asBuffer(geometry)], type: QueryTypes.INSERT },
    );
}

/** Completes a set and shows the cloud there. Everything made of the cloud goes stale. */
export async function finishPositionSet(
  models: Models,
  historyId: number,
  set: { readonly id: number; readonly cloudId: number; readonly name: string; readonly facts: PositionSetFacts },
): Promise<PositionsEffect> {
  await models.positionSets.update(
    { state: 'ready', name: set.name, facts: JSON.stringify(set.facts) },
    { where: { id: set.id } },
  );
  return { ...(await takePositions(models, historyId, set.cloudId, set.id)), madeSet: set.id };
}

/** Shows a cloud at other positions. */
export async function takePositions(
  models: Models,
  historyId: number,
  cloudId: number,
  positionsId: number,
): Promise<PositionsEffect> {
  const other = await exchangePositions(models, cloudId, {
    positionsId,
    revision: historyId,
    classRevision: historyId,
  });
  return {
    kind: 'positions',
    cloudId,
    otherPositions: other.positionsId,
    otherRevision: other.revision,
    otherClassRevision: other.classRevision,
  };
}

/** That a cloud is shown at other positions, and what it was before; works both ways. `madeSet` where the step moved the points itself. */
export interface PositionsEffect {
  readonly kind: 'positions';
  readonly cloudId: number;
  readonly otherPositions: number;
  readonly otherRevision: number;
  readonly otherClassRevision: number;
  readonly madeSet?: number;
}

type PositionState = Pick<CloudRow, 'positionsId' | 'revision' | 'classRevision'>;

/** Gives the cloud other positions and revisions and returns those it had. */
export async function exchangePositions(models: Models, cloudId: number, state: PositionState): Promise<PositionState> {
  const row = (await models.clouds.findByPk(cloudId, {
    attributes: ['positionsId', 'revision', 'classRevision'],
    raw: true,
  })) as unknown as PositionState;
  await models.clouds.update(state, { where: { id: cloudId } });
  return row;
}

/** Sets that were never completed: their server was stopped. */
export async function listUnfinishedSets(models: Models): Promise<number[]> {
  const rows = (await models.positionSets.findAll({
    where: { state: 'moving' },
    attributes: ['id'],
    raw: true,
  })) as unknown as { id: number }[];
  return rows.map(({ id }) => id);
}

export async function removePositionSet(models: Models, setId: number): Promise<void> {
  await models.nodes.sequelize!.query('DELETE FROM moved_nodes WHERE setId = $1', {
    bind: [setId],
    type: QueryTypes.DELETE,
  });
  await models.positionSets.destroy({ where: { id: setId } });
}

/** The sets of every cloud, oldest first. */
export async function listPositionSets(
  models: Models,
  cloudId?: number,
): Promise<{ id: number; cloudId: number; name: string; facts: PositionSetFacts }[]> {
  const rows = (await models.positionSets.findAll({
    where: { state: 'ready', ...(cloudId !== undefined && { cloudId }) },
    order: ['id'],
    raw: true,
  })) as unknown as { id: number; cloudId: number; name: string; facts: string }[];
  return rows.map(({ id, cloudId: of, name, facts }) => ({
    id,
    cloudId: of,
    name,
    facts: storedJson(facts) as PositionSetFacts,
  }));
}
