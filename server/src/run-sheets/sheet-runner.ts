import { readRunSheet, type GivenPlaces, type Run, type SheetRun, type WorkStep } from '@pampero/contract';
import { ZodError } from 'zod';
import { JobError } from '../errors/job-error.js';
import { problemOf } from '../errors/problem.js';
import type { IncomingFiles } from '../incoming/incoming-files.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { OperationService } from '../operations/operation-service.js';
import type { RunService } from '../runs/run-service.js';
import { readCloud } from '../store/cloud-repository.js';
import type { JobFile } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import {
  insertSheetRun,
  listSheetRuns,
  readSheetRun,
  setGate,
  setSheetRunState,
  sheetEntries,
  type SheetEntry,
  type StoredSheetRun,
} from '../store/sheet-run-repository.js';
import { askGate } from './gates.js';
import { allFiles, planSheet, type PlannedStep } from './sheet-plan.js';
import { valuesOf } from './sheet-values.js';
import { tellSheetRun } from './tell-run.js';

const LOOK_EVERY_MS = 250;
/** States in which a run goes no further by itself and will not come back. */
const OVER: readonly SheetRun['state'][] = ['done', 'cancelled'];

/**
 * Takes run sheets through jobs, step by step. What is done is read off the field book, where each entry says which step it was,
 * so a run that was cut off goes on at the first step that is not done.
 */
export class SheetRunner {
  /** Runs on their way, by job and number: what runs now, and how to end it. */
  private readonly under = new Map<
    string,
    { run?: Run | undefined; step?: string | undefined; readonly ended: Promise<void> }
  >();
  private isClosing = false;

  constructor(
    private readonly library: JobLibrary,
    private readonly operations: OperationService,
    private readonly runs: RunService,
    private readonly incoming: IncomingFiles,
  ) {}

  /**
   * Begins a run and returns at once.
   * @throws ZodError naming each field of the sheet that does not hold; JobError where a place is not filled
   */
  async start(jobId: string, given: unknown, places: GivenPlaces): Promise<SheetRun> {
    const sheet = checkedSheet(given);
    planSheet(sheet, places);
    const file = await this.library.file(jobId);
    for (const each of allFiles(places)) await this.incoming.find(each);
    for (const place of Object.values(places))
      if ('clouds' in place) for (const id of place.clouds) await readCloud(file.read, id);
    const open = (await listSheetRuns(file.read)).find(({ state }) => !OVER.includes(state));
    if (open)
      throw new JobError('busy', {
        what: `The run sheet “${open.sheet.name}” is not at its end in this job.`,
        fix: 'Go on with it or cancel it first.',
      });
    const id = await file.write((models) => insertSheetRun(models, sheet, places));
    this.go(jobId, id);
    return this.read(jobId, id);
  }

  async list(jobId: string): Promise<SheetRun[]> {
    const { read } = await this.library.file(jobId);
    return Promise.all((await listSheetRuns(read)).map((run) => this.tell(jobId, read, run)));
  }

  async read(jobId: string, id: number): Promise<SheetRun> {
    const { read } = await this.library.file(jobId);
    return this.tell(jobId, read, await readSheetRun(read, id));
  }

  /** Lets a run through the gate at which it waits. */
  async accept(jobId: string, id: number, step: string, reason: string): Promise<SheetRun> {
    const file = await this.library.file(jobId);
    const { gates, state } = await readSheetRun(file.read, id);
    const verdict = gates[step];
    if (state !== 'waiting' || verdict?.state !== 'waiting')
      throw new JobError('bad-request', {
        what: `The run does not wait at “${step}”.`,
        fix: 'Load the run again; it may have gone on.',
      });
    await file.write(async (models) => {
      await setGate(models, id, step, { ...verdict, state: 'accepted', reason });
      await setSheetRunState(models, id, 'running');
    });
    this.go(jobId, id);
    return this.read(jobId, id);
  }

  /** Goes on with a run that stopped or waits; a gate is asked again. */
  async goOn(jobId: string, id: number): Promise<SheetRun> {
    const file = await this.library.file(jobId);
    const { state, gates } = await readSheetRun(file.read, id);
    if (OVER.includes(state))
      throw new JobError('bad-request', { what: 'The run is at its end.', fix: 'Start another.' });
    if (!this.under.has(keyOf(jobId, id))) {
      await file.write(async (models) => {
        for (const [step, verdict] of Object.entries(gates))
          if (verdict.state === 'waiting') await setGate(models, id, step, undefined);
        await setSheetRunState(models, id, 'running');
      });
      this.go(jobId, id);
    }
    return this.read(jobId, id);
  }

  /** Ends a run; what is done stays. */
  async cancel(jobId: string, id: number): Promise<SheetRun> {
    const file = await this.library.file(jobId);
    const { state, places } = await readSheetRun(file.read, id);
    if (!OVER.includes(state)) {
      await file.write((models) => setSheetRunState(models, id, 'cancelled', 'Cancelled.'));
      const under = this.under.get(keyOf(jobId, id));
      if (under?.run) this.runs.cancel(jobId, under.run.id);
      await under?.ended;
      await this.discard(places);
      this.told(jobId);
    }
    return this.read(jobId, id);
  }

  /** Resolves when nothing of a run is under way: it is done, stopped or waits. */
  async settled(jobId: string, id: number): Promise<SheetRun> {
    await this.under.get(keyOf(jobId, id))?.ended;
    return this.read(jobId, id);
  }

  /** As {@link settled}; until then tells now and then how far the run is. */
  async watch(jobId: string, id: number, onLook: (run: SheetRun) => void): Promise<SheetRun> {
    const settled = this.settled(jobId, id);
    let isSettled = false;
    void settled.finally(() => (isSettled = true)).catch(() => undefined);
    while (!isSettled) {
      onLook(await this.read(jobId, id));
      await Promise.race([settled, new Promise((wake) => setTimeout(wake, LOOK_EVERY_MS))]);
    }
    const run = await settled;
    onLook(run);
    return run;
  }

  /** Goes on with what a server that is gone was at. */
  async goOnAfterRestart(): Promise<void> {
    for (const { id: jobId } of await this.library.list()) {
      if (this.isClosing) return;
      if (!(await this.library.hasRows(jobId, "SELECT 1 FROM sheet_runs WHERE state = 'running' LIMIT 1"))) continue;
      const { read } = await this.library.file(jobId);
      for (const { id, state } of await listSheetRuns(read)) if (state === 'running') this.go(jobId, id);
    }
  }

  /** Begins no further step; what runs is waited for by whoever owns it. */
  close(): void {
    this.isClosing = true;
  }

  private go(jobId: string, id: number): void {
    const key = keyOf(jobId, id);
    if (this.under.has(key)) return;
    const ended = this.goThrough(jobId, id)
      .catch(async (error: unknown) => {
        const file = await this.library.file(jobId).catch(() => undefined);
        await file
          ?.write((models) => setSheetRunState(models, id, 'stopped', problemOf(error).detail))
          .catch(() => undefined);
      })
      .finally(() => {
        this.under.delete(key);
        this.told(jobId);
      });
    this.under.set(key, { ended });
    this.told(jobId);
  }

  private async goThrough(jobId: string, id: number): Promise<void> {
    for (;;) {
      if (this.isClosing) return;
      const file = await this.library.file(jobId);
      const letGo = file.hold();
      try {
        const stored = await readSheetRun(file.read, id);
        if (stored.state !== 'running') return;
        const plan = planSheet(stored.sheet, stored.places);
        const entries = await sheetEntries(file.read, id);
        const next = plan.find((planned) => !isPassed(planned, stored, entries));
        if (!next) {
          await file.write((models) => setSheetRunState(models, id, 'done'));
          await this.discard(stored.places);
          return;
        }
        const hasGoneOn =
          next.step.kind === 'gate'
            ? await this.throughGate(jobId, file, stored, next, entries)
            : await this.throughWork(jobId, file, stored, next, entries);
        if (!hasGoneOn) return;
        this.told(jobId);
      } finally {
        letGo();
      }
    }
  }

  private async throughGate(
    jobId: string,
    file: JobFile,
    { id }: StoredSheetRun,
    { key, step }: PlannedStep,
    entries: ReadonlyMap<string, SheetEntry>,
  ): Promise<boolean> {
    if (step.kind !== 'gate') return true;
    const { unit } = await this.library.describe(jobId);
    const verdict = await askGate(step, { models: file.read, unit, entries });
    await file.write(async (models) => {
      await setGate(models, id, key, verdict);
      if (verdict.state === 'waiting') await setSheetRunState(models, id, 'waiting', verdict.outcome);
    });
    return verdict.state !== 'waiting';
  }

  private async throughWork(
    jobId: string,
    file: JobFile,
    { id, sheet, places }: StoredSheetRun,
    planned: PlannedStep,
    entries: ReadonlyMap<string, SheetEntry>,
  ): Promise<boolean> {
    const step = planned.step as WorkStep;
    const stop = (because: string): Promise<void> =>
      file.write((models) => setSheetRunState(models, id, 'stopped', `${planned.title}: ${because}`));
    try {
      const { unit } = await this.library.describe(jobId);
      const given = await valuesOf({ models: file.read, unit, sheet, places, entries }, planned);
      const found = planned.file && (await this.incoming.find(planned.file));
      const source = found && { ...found, discard: () => Promise.resolve() };
      const { run, finished } = await this.operations.startForSheet(
        jobId,
        step.operation,
        given,
        source,
        { sheetRunId: id, step: planned.key },
        step.isProposed,
      );
      const under = this.under.get(keyOf(jobId, id));
      if (under) Object.assign(under, { run, step: planned.key });
      this.told(jobId);
      // It may have been cancelled while the step was being prepared.
      if ((await readSheetRun(file.read, id)).state !== 'running') this.runs.cancel(jobId, run.id);
      const { state, outcome } = await finished;
      if (under) Object.assign(under, { run: undefined, step: undefined });
      if (state === 'done') return true;
      if (this.isClosing || (await readSheetRun(file.read, id)).state !== 'running') return false;
      await stop(outcome ?? 'It did not end well.');
    } catch (error) {
      if (!this.isClosing) await stop(problemOf(error).detail);
    }
    return false;
  }

  private async discard(places: GivenPlaces): Promise<void> {
    for (const file of allFiles(places)) {
      const found = await this.incoming.find(file).catch(() => undefined);
      await found?.discard().catch(() => undefined);
    }
  }

  private told(jobId: string): void {
    this.runs.tell(jobId, { kind: 'changed', parts: ['sheet-runs'] });
  }

  private tell(jobId: string, models: Models, stored: StoredSheetRun): Promise<SheetRun> {
    const { run, step } = this.under.get(keyOf(jobId, stored.id)) ?? {};
    const live = run && this.runs.read(jobId, run.id);
    return tellSheetRun(models, stored, live && step !== undefined ? { run: live, step } : undefined);
  }
}

const keyOf = (jobId: string, id: number): string => `${jobId} ${id}`;

/** @throws ZodError naming each field that does not hold */
export function checkedSheet(given: unknown) {
  const read = readRunSheet(given);
  if ('sheet' in read) return read.sheet;
  throw new ZodError(
    read.faults.map(({ at, message }) => ({
      code: 'custom',
      path: at.split('.'),
      message: at ? `${at}: ${message}` : message,
      input: undefined,
    })),
  );
}

/** Whether nothing of a step is left to do. */
function isPassed(
  { key, step }: PlannedStep,
  { gates }: StoredSheetRun,
  entries: ReadonlyMap<string, SheetEntry>,
): boolean {
  if (step.isOff) return true;
  if (step.kind === 'gate') return gates[key]?.state === 'done' || gates[key]?.state === 'accepted';
  return entries.get(key)?.state === 'done';
}
