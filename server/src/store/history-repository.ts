import type { Figure, History, HistoryEntry, Stage } from '@pampero/contract';
import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import { Op } from 'sequelize';
import { JobError } from '../jobs/job-error.js';
import type { HistoryClassRow, HistoryRow, Models, NodeClassRow } from '../jobs/models.js';
import { asBuffer, countClasses } from './cloud-repository.js';

/** What an operation did to the job, so that it can be taken back and done again. */
export type Effect =
  | { readonly kind: 'cloud' | 'product'; readonly id: number; readonly replaces?: number }
  /** Surveyed points brought by the entry of this id. */
  | { readonly kind: 'control'; readonly id: number; readonly replaces?: undefined }
  | { readonly kind: 'classes'; readonly cloudId: number; readonly otherRevision: number };

export interface StartedEntry {
  readonly operation: string;
  readonly stage: Stage;
  readonly title: string;
  readonly parameters: Record<string, unknown>;
}

/** Fast deflate: class columns are long runs, and an edit should be stored within the second. */
const pack = (bytes: Buffer): Promise<Buffer> =>
  promisify<Buffer, { level: number }, Buffer>(deflate)(bytes, { level: 1 });
const unpack = promisify<Buffer, Buffer>(inflate);

/** Enters an operation before its work begins: whatever stops it, the field book shows that it was tried. */
export async function beginEntry(models: Models, started: StartedEntry): Promise<number> {
  const row = await models.history.create({
    operation: started.operation,
    stage: started.stage,
    title: started.title,
    parameters: JSON.stringify(started.parameters),
    state: 'running',
    outcome: '',
    figures: '[]',
    effects: '[]',
    startedAt: new Date().toISOString(),
    durationMs: 0,
  });
  return row.get('id') as number;
}

/** Completes an entry with what it did; steps that had been taken back can then no longer be done again. */
export async function completeEntry(
  models: Models,
  id: number,
  result: { outcome: string; figures: readonly Figure[]; effects: readonly Effect[]; durationMs: number },
): Promise<void> {
  const undone = (await models.history.findAll({
    where: { state: 'undone' },
    attributes: ['id'],
    raw: true,
  })) as unknown as HistoryRow[];
  if (undone.length > 0) {
    const ids = undone.map((row) => row.id);
    await models.historyClass.destroy({ where: { historyId: ids } });
    await models.history.update({ state: 'dropped' }, { where: { id: ids } });
  }
  await models.history.update(
    {
      state: 'done',
      outcome: result.outcome,
      figures: JSON.stringify(result.figures),
      effects: JSON.stringify(result.effects),
      durationMs: result.durationMs,
    },
    { where: { id } },
  );
}

export async function endEntry(
  models: Models,
  id: number,
  state: 'failed' | 'cancelled',
  outcome: string,
  durationMs: number,
): Promise<void> {
  await models.history.update({ state, outcome, durationMs }, { where: { id } });
}

/** Entries left "running" belong to a server that was stopped; nothing of their work was kept. */
export async function markInterrupted(models: Models): Promise<void> {
  await models.history.update(
    { state: 'interrupted', outcome: 'The server stopped while it ran; nothing of it was kept.' },
    { where: { state: 'running' } },
  );
}

/**
 * Writes new class columns and keeps the ones they replace under the history entry.
 * @returns the effect to enter with {@link completeEntry}
 */
export async function replaceClasses(
  models: Models,
  historyId: number,
  cloudId: number,
  changes: readonly { readonly nodeId: number; readonly classification: Uint8Array }[],
): Promise<Effect> {
  for (const { nodeId, classification } of changes) {
    const before = (await models.nodeClass.findByPk(nodeId, { raw: true })) as unknown as NodeClassRow;
    await models.historyClass.create({
      historyId,
      nodeId,
      classification: await pack(before.classification),
      counts: before.counts,
      revision: before.revision,
    });
    await models.nodeClass.update(
      {
        classification: asBuffer(classification),
        counts: JSON.stringify(countClasses(classification)),
        revision: historyId,
      },
      { where: { nodeId } },
    );
  }
  const otherRevision = ((await models.clouds.findByPk(cloudId, { raw: true })) as unknown as { revision: number })
    .revision;
  await models.clouds.update({ revision: historyId }, { where: { id: cloudId } });
  return { kind: 'classes', cloudId, otherRevision };
}

export async function undo(models: Models): Promise<void> {
  const entry = await lastWith(models, 'done', 'DESC');
  if (!entry) throw new JobError('nothing-to-undo', { what: 'There is nothing to undo.' });
  await cross(models, entry, false);
}

export async function redo(models: Models): Promise<void> {
  const entry = await lastWith(models, 'undone', 'ASC');
  if (!entry) throw new JobError('nothing-to-redo', { what: 'There is nothing to redo.' });
  await cross(models, entry, true);
}

async function lastWith(models: Models, state: string, direction: 'ASC' | 'DESC'): Promise<HistoryRow | undefined> {
  const row = await models.history.findOne({
    where: { state, effects: { [Op.ne]: '[]' } },
    order: [['id', direction]],
    raw: true,
  });
  return (row ?? undefined) as unknown as HistoryRow | undefined;
}

/** Goes over a step, back or forth: each effect holds the other side, and takes this one in its stead. */
async function cross(models: Models, entry: HistoryRow, forth: boolean): Promise<void> {
  const effects = JSON.parse(entry.effects) as Effect[];
  const crossed: Effect[] = [];
  for (const effect of effects) {
    if (effect.kind === 'classes') {
      await swapClasses(models, entry.id);
      const revision = (
        (await models.clouds.findByPk(effect.cloudId, { raw: true })) as unknown as { revision: number }
      ).revision;
      await models.clouds.update({ revision: effect.otherRevision }, { where: { id: effect.cloudId } });
      crossed.push({ ...effect, otherRevision: revision });
    } else {
      await setActive(models, effect.kind, effect.id, forth);
      if (effect.replaces !== undefined) await setActive(models, effect.kind, effect.replaces, !forth);
      crossed.push(effect);
    }
  }
  await models.history.update(
    { state: forth ? 'done' : 'undone', effects: JSON.stringify(crossed) },
    { where: { id: entry.id } },
  );
}

async function setActive(
  models: Models,
  kind: 'cloud' | 'product' | 'control',
  id: number,
  isActive: boolean,
): Promise<void> {
  if (kind === 'cloud') await models.clouds.update({ isActive }, { where: { id } });
  else if (kind === 'control') await models.controlPoints.update({ isActive }, { where: { historyId: id } });
  else await models.products.update({ isActive }, { where: { id } });
}

async function swapClasses(models: Models, historyId: number): Promise<void> {
  const ids = (await models.historyClass.findAll({
    where: { historyId },
    attributes: ['nodeId'],
    raw: true,
  })) as unknown as HistoryClassRow[];
  for (const { nodeId } of ids) {
    const kept = (await models.historyClass.findOne({
      where: { historyId, nodeId },
      raw: true,
    })) as unknown as HistoryClassRow;
    const present = (await models.nodeClass.findByPk(nodeId, { raw: true })) as unknown as NodeClassRow;
    await models.nodeClass.update(
      { classification: await unpack(kept.classification), counts: kept.counts, revision: kept.revision },
      { where: { nodeId } },
    );
    await models.historyClass.update(
      { classification: await pack(present.classification), counts: present.counts, revision: present.revision },
      { where: { historyId, nodeId } },
    );
  }
}

export async function readHistory(models: Models): Promise<History> {
  const rows = (await models.history.findAll({ order: [['id', 'DESC']], raw: true })) as unknown as HistoryRow[];
  const hasEffects = (row: HistoryRow): boolean => row.effects !== '[]';
  return {
    entries: rows.map(asEntry),
    canUndo: rows.some((row) => row.state === 'done' && hasEffects(row)),
    canRedo: rows.some((row) => row.state === 'undone'),
  };
}

function asEntry(row: HistoryRow): HistoryEntry {
  return {
    id: row.id,
    operation: row.operation,
    stage: row.stage as Stage,
    title: row.title,
    parameters: JSON.parse(row.parameters) as Record<string, unknown>,
    state: row.state as HistoryEntry['state'],
    outcome: row.outcome,
    figures: JSON.parse(row.figures) as Figure[],
    startedAt: row.startedAt,
    durationMs: row.durationMs,
  };
}
