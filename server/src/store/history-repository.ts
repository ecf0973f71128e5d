import { giveBackSpace, type Figure, type History, type HistoryEntry, type Stage } from '@pampero/contract';
import { Op, type Model } from 'sequelize';
import { JobError } from '../errors/job-error.js';
import type { HistoryRow, Models } from './models.js';
import { removeCloud } from './cloud-repository.js';
import { crossMarks, exchangeRevisions } from './kept-marks.js';
import type { Effect } from './effects.js';
import { dropVersion } from './line-versions.js';
import { exchangePositions, removePositionSet } from './position-repository.js';
import { exchangeColours, removeColourSet } from './colour-repository.js';
import { storedJson } from './stored-json.js';

export interface StartedEntry {
  readonly operation: string;
  readonly stage: Stage;
  readonly title: string;
  readonly parameters: Record<string, unknown>;
  readonly sheetStep?: SheetStepOf | undefined;
}

/** The step of a run sheet that an entry is done for. */
export interface SheetStepOf {
  readonly sheetRunId: number;
  readonly step: string;
}

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
    ...(started.sheetStep && { sheetRunId: started.sheetStep.sheetRunId, sheetStep: started.sheetStep.step }),
  });
  return row.get('id') as number;
}

/**
 * Completes an entry with what it did; steps that had been taken back can then no longer be done again, and what they had made
 * is removed for good.
 * @returns whether anything was
 */
export async function completeEntry(
  models: Models,
  id: number,
  result: { outcome: string; figures: readonly Figure[]; effects: readonly Effect[]; durationMs: number },
): Promise<boolean> {
  const hasDropped = await dropUndone(models);
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
  return hasDropped;
}

/**
 * Steps that were taken back can no longer be done again; what they had made is removed for good.
 * @returns whether there were any
 */
export async function dropUndone(models: Models): Promise<boolean> {
  const undone = (await models.history.findAll({
    where: { state: 'undone' },
    attributes: ['id', 'effects'],
    raw: true,
  })) as unknown as HistoryRow[];
  if (undone.length === 0) return false;
  const ids = undone.map((row) => row.id);
  await models.historyMarks.destroy({ where: { historyId: ids } });
  await models.history.update({ state: 'dropped' }, { where: { id: ids } });
  for (const { effects } of undone)
    for (const effect of storedJson(effects) as Effect[]) await removeMade(models, effect);
  return true;
}

/** Takes away what a step made that nobody can come back to. What is shown is never touched. */
async function removeMade(models: Models, effect: Effect): Promise<void> {
  if (effect.kind === 'cloud') {
    const cloud = await models.clouds.findOne({ where: { id: effect.id, isActive: false }, attributes: ['id'] });
    if (cloud) await removeCloud(models, effect.id);
  } else if (effect.kind === 'product') {
    const product = await models.products.findOne({ where: { id: effect.id, isActive: false }, attributes: ['id'] });
    if (!product) return;
    await models.productBlobs.destroy({ where: { productId: effect.id } });
    await dropVersion(models, effect.id);
    await models.products.destroy({ where: { id: effect.id } });
  } else if (effect.kind === 'positions') {
    if (effect.madeSet === undefined) return;
    const isShown = await models.clouds.findOne({ where: { positionsId: effect.madeSet }, attributes: ['id'] });
    if (!isShown) await removePositionSet(models, effect.madeSet);
  } else if (effect.kind === 'colours') {
    const isShown = await models.clouds.findOne({ where: { coloursId: effect.madeSet }, attributes: ['id'] });
    if (!isShown) await removeColourSet(models, effect.madeSet);
  } else if (effect.kind === 'control')
    await models.controlPoints.destroy({ where: { historyId: effect.id, isActive: false } });
}

/** What steps of the field book were called, and the day of each. */
export async function describeEntries(models: Models, ids: readonly number[]): Promise<Map<number, string>> {
  const rows = (await models.history.findAll({
    where: { id: [...ids] },
    attributes: ['id', 'title', 'startedAt'],
    raw: true,
  })) as unknown as HistoryRow[];
  return new Map(rows.map(({ id, title, startedAt }) => [id, `${title} ${startedAt.slice(0, 10)}`]));
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

export const CLASSES_KEY = 'classes';

/** Sets a setting of the job. */
export async function replaceSetting(models: Models, key: string, value: string): Promise<Effect> {
  return { kind: 'setting', key, other: await exchangeSetting(models, key, value) };
}

async function exchangeSetting(models: Models, key: string, value: string | null): Promise<string | null> {
  const row = (await models.meta.findByPk(key, { raw: true })) as unknown as { value: string } | null;
  if (value === null) await models.meta.destroy({ where: { key } });
  else await models.meta.upsert({ key, value });
  return row?.value ?? null;
}

/** Takes clouds, products or lists of survey points out of the job; they are kept until nobody can come back to them. */
export async function removeThings(
  models: Models,
  of: 'cloud' | 'product' | 'control',
  ids: readonly number[],
): Promise<Effect[]> {
  for (const id of ids) await setActive(models, of, id, false);
  return ids.map((id) => ({ kind: 'removal', of, id }));
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
    where: { state, effects: { [Op.ne]: '[]' }, id: { [Op.gt]: await lastSettled(models) } },
    order: [['id', direction]],
    raw: true,
  });
  return (row ?? undefined) as unknown as HistoryRow | undefined;
}

/** The last step after which nothing before it can be undone, since what that needs was deleted; 0 where there is none. */
async function lastSettled(models: Models): Promise<number> {
  const last = await models.history.max<number | null, Model>('id', {
    where: { state: 'done', operation: giveBackSpace.id },
  });
  return last ?? 0;
}

/** Goes over a step, back or forth: each effect holds the other side, and takes this one in its stead. */
async function cross(models: Models, entry: HistoryRow, forth: boolean): Promise<void> {
  const effects = storedJson(entry.effects) as Effect[];
  if (effects.some(({ kind }) => kind === 'classes')) await crossMarks(models, entry.id);
  const crossed: Effect[] = [];
  for (const effect of effects) {
    if (effect.kind === 'classes') {
      const other = await exchangeRevisions(models, effect.cloudId, {
        revision: effect.otherRevision,
        classRevision: effect.otherClassRevision,
      });
      crossed.push({ ...effect, otherRevision: other.revision, otherClassRevision: other.classRevision });
    } else if (effect.kind === 'positions') {
      const other = await exchangePositions(models, effect.cloudId, {
        positionsId: effect.otherPositions,
        revision: effect.otherRevision,
        classRevision: effect.otherClassRevision,
      });
      crossed.push({
        ...effect,
        otherPositions: other.positionsId,
        otherRevision: other.revision,
        otherClassRevision: other.classRevision,
      });
    } else if (effect.kind === 'colours')
      crossed.push({
        ...effect,
        otherColours: await exchangeColours(models, effect.cloudId, effect.otherColours),
      });
    else if (effect.kind === 'setting')
      crossed.push({ ...effect, other: await exchangeSetting(models, effect.key, effect.other) });
    else if (effect.kind === 'removal') {
      await setActive(models, effect.of, effect.id, !forth);
      crossed.push(effect);
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

export async function readHistory(models: Models): Promise<History> {
  const rows = (await models.history.findAll({ order: [['id', 'DESC']], raw: true })) as unknown as HistoryRow[];
  const settled = await lastSettled(models);
  // As lastWith finds them, of the rows that are here already: every page reads this at every change.
  const open = rows.filter((row) => row.effects !== '[]' && row.id > settled);
  return {
    entries: rows.map(asEntry),
    undoes: open.find(({ state }) => state === 'done')?.id ?? null,
    redoes: open.findLast(({ state }) => state === 'undone')?.id ?? null,
  };
}

function asEntry(row: HistoryRow): HistoryEntry {
  return {
    id: row.id,
    operation: row.operation,
    stage: row.stage as Stage,
    title: row.title,
    parameters: storedJson(row.parameters) as Record<string, unknown>,
    state: row.state as HistoryEntry['state'],
    outcome: row.outcome,
    figures: storedJson(row.figures) as Figure[],
    startedAt: row.startedAt,
    durationMs: row.durationMs,
    made: madeOf(storedJson(row.effects) as Effect[]),
  };
}

/** Clouds and products that effects brought. */
export function madeOf(effects: readonly Effect[]): { kind: 'cloud' | 'product'; id: number }[] {
  return effects.flatMap((effect) =>
    effect.kind === 'cloud' || effect.kind === 'product' ? [{ kind: effect.kind, id: effect.id }] : [],
  );
}
