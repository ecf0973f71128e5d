import { QueryTypes } from 'sequelize';
import { asBuffer } from './cloud-repository.js';
import type { CloudRow, Models } from './models.js';

/*
 * Colours that a cloud was given stand beside its points, as places it was moved to do: a set of red, green and blue for every node, and
 * the cloud says which it shows. So its own colours are never lost, and undo is one row.
 */

export async function beginColourSet(models: Models, cloudId: number, historyId: number): Promise<number> {
  const row = await models.colourSets.create({ cloudId, historyId, state: 'colouring' });
  return row.get('id') as number;
}

export interface ColouredNode {
  readonly nodeId: number;
  /** Red, then green, then blue of its points, 16 bits each, little-endian. */
  readonly colours: Uint8Array;
}

export async function insertColouredNodes(
  models: Models,
  setId: number,
  nodes: readonly ColouredNode[],
): Promise<void> {
  for (const { nodeId, colours } of nodes)
    await models.nodes.sequelize!.query('INSERT INTO coloured_nodes (setId, nodeId, bytes) VALUES ($1, $2, $3)', {
      bind: [setId, nodeId, asBuffer(colours)],
      type: QueryTypes.INSERT,
    });
}

/** That a cloud is shown in other colours; works both ways. */
export interface ColoursEffect {
  readonly kind: 'colours';
  readonly cloudId: number;
  readonly otherColours: number;
  readonly madeSet: number;
}

/** Completes a set and shows the cloud in it. */
export async function finishColourSet(models: Models, cloudId: number, setId: number): Promise<ColoursEffect> {
  await models.colourSets.update({ state: 'ready' }, { where: { id: setId } });
  return { kind: 'colours', cloudId, otherColours: await exchangeColours(models, cloudId, setId), madeSet: setId };
}

/** Shows a cloud in other colours; answers with those it had. */
export async function exchangeColours(models: Models, cloudId: number, coloursId: number): Promise<number> {
  const row = (await models.clouds.findByPk(cloudId, {
    attributes: ['coloursId'],
    raw: true,
  })) as unknown as CloudRow;
  await models.clouds.update({ coloursId }, { where: { id: cloudId } });
  return row.coloursId;
}

/** Sets that were never completed: their server was stopped. */
export async function listUnfinishedColours(models: Models): Promise<number[]> {
  const rows = (await models.colourSets.findAll({
    where: { state: 'colouring' },
    attributes: ['id'],
    raw: true,
  })) as unknown as { id: number }[];
  return rows.map(({ id }) => id);
}

export async function removeColourSet(models: Models, setId: number): Promise<void> {
  await models.nodes.sequelize!.query('DELETE FROM coloured_nodes WHERE setId = $1', {
    bind: [setId],
    type: QueryTypes.DELETE,
  });
  await models.colourSets.destroy({ where: { id: setId } });
}
