import { promisify } from 'node:util';
import { inflate } from 'node:zlib';
import { QueryTypes } from 'sequelize';
import { asBuffer } from './cloud-repository.js';
import type { Effect } from './effects.js';
import { applyDifference, countClasses, type ChangedMarks, type Marks } from './mark-difference.js';
import type { HistoryMarksRow, Models } from './models.js';
import { readNodes, type NodeBytes } from './node-repository.js';

const unpack = promisify<Buffer, Buffer>(inflate);

/**
 * Writes new classes and flags and keeps what they differ by under the history entry.
 * @returns the effect to enter with `completeEntry`
 */
export async function replaceMarks(
  models: Models,
  historyId: number,
  cloudId: number,
  changes: readonly ChangedMarks[],
): Promise<Effect> {
  // Plain statements: a model instance each is what takes the time.
  const database = models.historyMarks.sequelize!;
  for (const { nodeId, classification, flags, packed } of changes) {
    await database.query(
      'INSERT INTO history_marks (historyId, nodeId, difference, otherRevision) SELECT $1, $2, $3, revision FROM node_class WHERE nodeId = $2',
      { bind: [historyId, nodeId, asBuffer(packed.difference)], type: QueryTypes.INSERT },
    );
    await writeMarks(models, nodeId, { classification, flags, counts: packed.counts }, historyId);
  }
  const touchesClasses = changes.some(({ packed }) => packed.touchesClasses);
  const other = await exchangeRevisions(models, cloudId, {
    revision: historyId,
    ...(touchesClasses && { classRevision: historyId }),
  });
  return { kind: 'classes', cloudId, otherRevision: other.revision, otherClassRevision: other.classRevision };
}

async function writeMarks(
  models: Models,
  nodeId: number,
  { classification, flags, counts }: Marks & { readonly counts: string },
  revision: number,
): Promise<void> {
  await models.nodeClass.sequelize!.query(
    'UPDATE node_class SET classification = $1, flags = $2, counts = $3, revision = $4 WHERE nodeId = $5',
    { bind: [asBuffer(classification), asBuffer(flags), counts, revision, nodeId], type: QueryTypes.UPDATE },
  );
}

export interface Revisions {
  readonly revision: number;
  readonly classRevision: number;
}

/** Gives the cloud other revisions and returns those it had. */
export async function exchangeRevisions(
  models: Models,
  cloudId: number,
  { revision, classRevision }: { readonly revision: number; readonly classRevision?: number },
): Promise<Revisions> {
  const row = (await models.clouds.findByPk(cloudId, { raw: true })) as unknown as Revisions;
  await models.clouds.update(
    { revision, ...(classRevision !== undefined && { classRevision }) },
    { where: { id: cloudId } },
  );
  return { revision: row.revision, classRevision: row.classRevision };
}

/** Takes every node of the step, of whichever cloud, to the step's other side. */
export async function crossMarks(models: Models, historyId: number): Promise<void> {
  const ids = (await models.historyMarks.findAll({
    where: { historyId },
    attributes: ['nodeId'],
    raw: true,
  })) as unknown as HistoryMarksRow[];
  for (const { nodeId } of ids) {
    const kept = (await models.historyMarks.findOne({
      where: { historyId, nodeId },
      raw: true,
    })) as unknown as HistoryMarksRow;
    const [present] = (await readNodes(models, [nodeId])) as [NodeBytes];
    const { classification, flags } = present;
    applyDifference(await unpack(kept.difference), { classification, flags });
    const counts = JSON.stringify(countClasses(classification));
    await writeMarks(models, nodeId, { classification, flags, counts }, kept.otherRevision);
    await models.historyMarks.update({ otherRevision: present.revision }, { where: { historyId, nodeId } });
  }
}
