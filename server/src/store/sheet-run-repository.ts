import type { Figure, GivenPlaces, RunSheet, SheetRun } from '@pampero/contract';
import { notFound } from '../errors/job-error.js';
import { madeOf } from './history-repository.js';
import type { Effect } from './effects.js';
import type { HistoryRow, Models, SheetRunRow } from './models.js';
import { storedJson } from './stored-json.js';

/** What became of a gate: it held, it waits, or a person let the run through, and why. */
export interface GateVerdict {
  readonly state: 'done' | 'waiting' | 'accepted';
  readonly outcome: string;
  readonly figures?: readonly Figure[];
  readonly reason?: string;
}

export interface StoredSheetRun {
  readonly id: number;
  readonly sheet: RunSheet;
  readonly places: GivenPlaces;
  readonly state: SheetRun['state'];
  readonly because: string | undefined;
  readonly gates: Readonly<Record<string, GateVerdict>>;
  readonly startedAt: string;
  readonly endedAt: string | undefined;
}

/** The newest entry of the field book for a step of a run. */
export interface SheetEntry {
  readonly historyId: number;
  readonly step: string;
  readonly state: string;
  readonly outcome: string;
  readonly figures: readonly Figure[];
  readonly effects: readonly Effect[];
  readonly durationMs: number;
}

export async function insertSheetRun(models: Models, sheet: RunSheet, places: GivenPlaces): Promise<number> {
  const row = await models.sheetRuns.create({
    sheet: JSON.stringify(sheet),
    places: JSON.stringify(places),
    state: 'running',
    gates: '{}',
    startedAt: new Date().toISOString(),
  });
  return row.get('id') as number;
}

export async function listSheetRuns(models: Models): Promise<StoredSheetRun[]> {
  const rows = await models.sheetRuns.findAll({ order: [['id', 'DESC']], raw: true });
  return (rows as unknown as SheetRunRow[]).map(asRun);
}

export async function readSheetRun(models: Models, id: number): Promise<StoredSheetRun> {
  const row = (await models.sheetRuns.findByPk(id, { raw: true })) as unknown as SheetRunRow | null;
  if (!row) throw notFound('run of a sheet', id);
  return asRun(row);
}

function asRun(row: SheetRunRow): StoredSheetRun {
  return {
    id: row.id,
    sheet: storedJson(row.sheet) as RunSheet,
    places: storedJson(row.places) as GivenPlaces,
    state: row.state,
    because: row.because ?? undefined,
    gates: storedJson(row.gates) as Record<string, GateVerdict>,
    startedAt: row.startedAt,
    endedAt: row.endedAt ?? undefined,
  };
}

export async function setSheetRunState(
  models: Models,
  id: number,
  state: SheetRun['state'],
  because?: string,
): Promise<void> {
  const isOver = state === 'done' || state === 'cancelled';
  await models.sheetRuns.update(
    { state, because: because ?? null, ...(isOver && { endedAt: new Date().toISOString() }) },
    { where: { id } },
  );
}

export async function setGate(
  models: Models,
  id: number,
  step: string,
  verdict: GateVerdict | undefined,
): Promise<void> {
  const { gates } = await readSheetRun(models, id);
  const { [step]: _, ...others } = gates;
  await models.sheetRuns.update(
    { gates: JSON.stringify(verdict ? { ...others, [step]: verdict } : others) },
    { where: { id } },
  );
}

/** The newest entry of each step of a run that has one. */
export async function sheetEntries(models: Models, id: number): Promise<Map<string, SheetEntry>> {
  const rows = (await models.history.findAll({
    where: { sheetRunId: id },
    order: ['id'],
    raw: true,
  })) as unknown as HistoryRow[];
  return new Map(
    rows.map((row) => [
      row.sheetStep!,
      {
        historyId: row.id,
        step: row.sheetStep!,
        state: row.state,
        outcome: row.outcome,
        figures: storedJson(row.figures) as Figure[],
        effects: storedJson(row.effects) as Effect[],
        durationMs: row.durationMs,
      },
    ]),
  );
}

/** Steps of the field book that are done, with what each made, for a run sheet made of them. */
export async function readDoneSteps(
  models: Models,
  ids: readonly number[],
): Promise<
  {
    id: number;
    operation: string;
    parameters: Record<string, unknown>;
    made: { kind: 'cloud' | 'product'; id: number }[];
  }[]
> {
  const rows = (await models.history.findAll({
    where: { id: [...ids], state: 'done' },
    order: ['id'],
    raw: true,
  })) as unknown as HistoryRow[];
  return rows.map((row) => ({
    id: row.id,
    operation: row.operation,
    parameters: storedJson(row.parameters) as Record<string, unknown>,
    made: madeOf(storedJson(row.effects) as Effect[]),
  }));
}
