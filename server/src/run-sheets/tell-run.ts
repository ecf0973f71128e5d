import type { Run, SheetRun, SheetRunStep } from '@pampero/contract';
import { madeOf } from '../store/history-repository.js';
import type { Models } from '../store/models.js';
import { presentOf } from '../store/product-repository.js';
import { sheetEntries, type SheetEntry, type StoredSheetRun } from '../store/sheet-run-repository.js';
import { keyOfStep, planSheet, type PlannedStep } from './sheet-plan.js';

/** An import takes about so many times as long as most other steps; for what is told of the time left. */
const IMPORT_WEIGHT = 3;

/** The step that runs now. */
export interface LiveStep {
  readonly run: Run;
  readonly step: string;
}

/** A run as it is told: each step with what became of it, how far the whole is, what leaves. */
export async function tellSheetRun(models: Models, stored: StoredSheetRun, live?: LiveStep): Promise<SheetRun> {
  const { id, sheet, places, state, because, startedAt, endedAt } = stored;
  const entries = await sheetEntries(models, id);
  const plan = planSheet(sheet, places);
  const steps = plan.map((planned) => tellStep(planned, stored, entries.get(planned.key), live));
  const { progress, secondsLeft } = howFar(plan, steps, live);
  return {
    id,
    name: sheet.name,
    state,
    steps,
    startedAt,
    progress: state === 'done' ? 1 : progress,
    outputs: await outputsOf(models, stored, entries),
    ...(endedAt !== undefined && { endedAt }),
    ...(state === 'running' && secondsLeft !== undefined && { secondsLeft }),
    ...(because !== undefined && { because }),
  };
}

function tellStep(
  { key, title, step }: PlannedStep,
  { gates }: StoredSheetRun,
  entry: SheetEntry | undefined,
  live: LiveStep | undefined,
): SheetRunStep {
  const told = { key, title, kind: step.kind, outcome: '', figures: [] };
  if (step.isOff) return { ...told, state: 'off' };
  if (step.kind === 'gate') {
    const { state, outcome, figures = [], reason } = gates[key] ?? { state: 'to-do' as const, outcome: '' };
    return { ...told, state, outcome, figures: [...figures], ...(reason !== undefined && { reason }) };
  }
  // The field book has it a moment after it was begun.
  if (key === live?.step && live.run.state !== 'done') return { ...told, state: 'running', outcome: live.run.step };
  if (!entry) return { ...told, state: 'to-do' };
  const { outcome, figures, historyId, durationMs } = entry;
  return { ...told, state: stateOf(entry), outcome, figures: [...figures], historyId, durationMs };
}

/** A step that was undone is to be done again. */
function stateOf({ state }: SheetEntry): SheetRunStep['state'] {
  if (state === 'done' || state === 'running') return state;
  return state === 'undone' || state === 'dropped' ? 'to-do' : 'failed';
}

function howFar(
  plan: readonly PlannedStep[],
  steps: readonly SheetRunStep[],
  live: LiveStep | undefined,
): { progress: number; secondsLeft: number | undefined } {
  const weights = plan.map(({ step }): number =>
    step.isOff || step.kind === 'gate' ? 0 : step.file === undefined ? 1 : IMPORT_WEIGHT,
  );
  const whole = weights.reduce((sum, weight) => sum + weight, 0) || 1;
  const shareOf = ({ state }: SheetRunStep): number =>
    state === 'done' ? 1 : state === 'running' ? (live?.run.progress ?? 0) : 0;
  const progress = steps.reduce((sum, step, k) => sum + weights[k]! * shareOf(step), 0) / whole;
  const spent = steps.reduce((sum, { durationMs }) => sum + (durationMs ?? 0), live?.run.elapsedMs ?? 0);
  return { progress, secondsLeft: progress > 0.05 ? ((spent / progress) * (1 - progress)) / 1000 : undefined };
}

/** What leaves at the end, of what is there by now. */
async function outputsOf(
  models: Models,
  { sheet }: StoredSheetRun,
  entries: ReadonlyMap<string, SheetEntry>,
): Promise<SheetRun['outputs']> {
  const outputs: SheetRun['outputs'] = [];
  for (const { of, format, classes } of sheet.outputs)
    for (const entry of entries.values()) {
      if (keyOfStep(entry.step) !== of || entry.state !== 'done') continue;
      for (const { kind, id } of madeOf(entry.effects)) {
        const present = kind === 'cloud' ? id : await presentOf(models, id);
        if (present !== undefined) outputs.push({ kind, id: present, format, ...(classes && { classes }) });
      }
    }
  return outputs;
}
