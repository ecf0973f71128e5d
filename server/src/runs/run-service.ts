import { randomUUID } from 'node:crypto';
import { EventEmitter } from 'node:events';
import type { Figure, JobEvent, OperationDescription, Run } from '@pampero/contract';
import { Cancelled } from '@pampero/core/task';
import { notFound } from '../errors/job-error.js';
import type { JobFile } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import type { Logger } from 'pino';
import { explained, problemOf } from '../errors/problem.js';
import {
  beginEntry,
  completeEntry,
  endEntry,
  type SheetStepOf,
  type StartedEntry,
} from '../store/history-repository.js';
import type { Effect } from '../store/effects.js';

/** What an operation may use while it runs. */
export interface RunContext {
  readonly job: JobFile;
  readonly signal: AbortSignal;
  /** The field book's entry of this run. */
  readonly historyId: number;
  /** Share done, 0 to 1, and what it is at. */
  report(share: number, step: string): void;
  /** Tells whoever watches that parts of the job have changed before the run ends. */
  announce(parts: (JobEvent & { kind: 'changed' })['parts']): void;
}

export interface RunResult {
  /** One line: what changed. */
  readonly outcome: string;
  readonly figures: readonly Figure[];
  readonly productId?: number;
  /** Set where much was deleted: the file is made smaller afterwards. */
  readonly givesBackSpace?: boolean;
  /** Stores what was made; runs in the same transaction as the field book's entry. */
  readonly store: (models: Models) => Promise<{ effects: readonly Effect[]; productId?: number }>;
}

/** The work of an operation: it reads and computes; what it wants stored it leaves to `store`. */
export type RunWork = (context: RunContext) => Promise<RunResult>;

interface LiveRun {
  run: Run;
  readonly isQuick: boolean;
  finished: Promise<Run> | undefined;
  readonly abort: AbortController;
  readonly begun: number;
}

/** Runs of a job that are listed; those that ended are remembered longer, for a script that asks after all it has started. */
const MOST_LISTED = 200;
const [MOST_REMEMBERED, REMEMBERED_MS] = [5_000, 10 * 60_000];
/** Progress is told at most this often. */
const TELL_EVERY_MS = 80;

/** Runs operations, one at a time in a job, and tells whoever watches. */
export class RunService {
  private readonly events = new EventEmitter().setMaxListeners(0);
  private readonly runs = new Map<string, Map<string, LiveRun>>();
  private readonly turns = new Map<string, Promise<unknown>>();

  constructor(
    /** Where the jobs lie, for what is said of a full disk. */
    private readonly folder: string,
    private readonly log: Pick<Logger, 'error'>,
  ) {}

  watch(jobId: string, listener: (event: JobEvent) => void): () => void {
    this.events.on(jobId, listener);
    return () => this.events.off(jobId, listener);
  }

  tell(jobId: string, event: JobEvent): void {
    this.events.emit(jobId, event);
  }

  list(jobId: string): Run[] {
    return this.runsOf(jobId)
      .slice(-MOST_LISTED)
      .map(({ run }) => run);
  }

  read(jobId: string, runId: string): Run {
    return this.live(jobId, runId).run;
  }

  isBusy(jobId: string): boolean {
    return this.runsOf(jobId).some(isUnderWay);
  }

  /** Waits for the hand edits that are under way, if nothing long stands before them. */
  async quickOnesDone(jobId: string): Promise<void> {
    const going = this.runsOf(jobId).filter(isUnderWay);
    if (going.every(({ isQuick }) => isQuick)) await Promise.all(going.map(({ finished }) => finished));
  }

  cancel(jobId: string, runId: string): Run {
    const live = this.live(jobId, runId);
    live.abort.abort();
    if (live.run.state === 'queued')
      this.update(jobId, live, { state: 'cancelled', outcome: 'Cancelled before it began.' });
    return live.run;
  }

  /** Cancels all and waits until they have ended. */
  async stopAll(jobId: string): Promise<void> {
    for (const live of this.runsOf(jobId)) if (isUnderWay(live)) live.abort.abort();
    await this.turns.get(jobId);
    this.runs.delete(jobId);
  }

  /** Queues the work and returns at once. `finished` resolves when the run has ended, however it ended. */
  start(
    jobId: string,
    job: JobFile,
    operation: Pick<OperationDescription, 'id' | 'stage' | 'title' | 'isQuick'>,
    parameters: Record<string, unknown>,
    work: RunWork,
    /** Done when the run is over, also one that was cancelled before it began. */
    release: () => Promise<void> = () => Promise.resolve(),
    /** The step of a run sheet that it is done for. */
    sheetStep?: SheetStepOf,
  ): { run: Run; finished: Promise<Run> } {
    const live: LiveRun = {
      run: {
        id: randomUUID(),
        operation: operation.id,
        title: operation.title,
        state: 'queued',
        progress: 0,
        step: 'Waiting its turn',
        startedAt: new Date().toISOString(),
        elapsedMs: 0,
      },
      isQuick: operation.isQuick ?? false,
      finished: undefined,
      abort: new AbortController(),
      begun: performance.now(),
    };
    let ofJob = this.runs.get(jobId);
    if (!ofJob) this.runs.set(jobId, (ofJob = new Map<string, LiveRun>()));
    ofJob.set(live.run.id, live);
    for (const [id, old] of ofJob) {
      if (ofJob.size <= MOST_LISTED) break;
      const isRecent = performance.now() - old.begun < REMEMBERED_MS;
      if (isRecent && ofJob.size <= MOST_REMEMBERED) continue;
      if (!isUnderWay(old)) ofJob.delete(id);
    }
    const letGo = job.hold();
    const finished = (this.turns.get(jobId) ?? Promise.resolve()).then(() =>
      this.execute(jobId, job, live, operation, { parameters, sheetStep }, work).finally(async () => {
        letGo();
        await release();
      }),
    );
    live.finished = finished;
    this.turns.set(jobId, finished);
    this.tell(jobId, { kind: 'run', run: live.run });
    return { run: live.run, finished };
  }

  private async execute(
    jobId: string,
    job: JobFile,
    live: LiveRun,
    operation: Pick<OperationDescription, 'id' | 'stage' | 'title'>,
    entry: Pick<StartedEntry, 'parameters' | 'sheetStep'>,
    work: RunWork,
  ): Promise<Run> {
    if (live.abort.signal.aborted) return live.run;
    const begun = performance.now();
    let historyId: number | undefined;
    try {
      const started = { operation: operation.id, stage: operation.stage, title: operation.title, ...entry };
      historyId = await job.write((models) => beginEntry(models, started), { isPromised: false });
      this.update(jobId, live, { state: 'running', step: 'Starting' });
      let told = 0;
      const result = await work({
        job,
        signal: live.abort.signal,
        historyId,
        announce: (parts) => this.tell(jobId, { kind: 'changed', parts }),
        report: (share, step) => {
          const now = performance.now();
          if (now - told < TELL_EVERY_MS && step === live.run.step) return;
          told = now;
          const elapsed = now - begun;
          const progress = Math.max(live.run.progress, Math.min(1, share));
          // A forecast from the first per cent would jump about.
          const secondsLeft =
            progress > 0.04 && elapsed > 500 ? ((elapsed / progress) * (1 - progress)) / 1000 : undefined;
          this.update(jobId, live, {
            progress,
            step,
            elapsedMs: elapsed,
            ...(secondsLeft !== undefined && { secondsLeft }),
          });
        },
      });
      if (live.abort.signal.aborted) throw new Cancelled();
      const entryId = historyId;
      let hasDropped = false;
      const stored = await job.write(async (models) => {
        const { effects, productId } = await result.store(models);
        hasDropped = await completeEntry(models, entryId, {
          outcome: result.outcome,
          figures: result.figures,
          effects,
          durationMs: performance.now() - begun,
        });
        return productId;
      });
      if (hasDropped || result.givesBackSpace) await job.giveBackSpace().catch(() => undefined);
      const { secondsLeft: _, ...run } = live.run;
      live.run = run;
      this.update(jobId, live, {
        state: 'done',
        progress: 1,
        step: 'Done',
        elapsedMs: performance.now() - begun,
        outcome: result.outcome,
        historyId: entryId,
        ...(stored !== undefined && { productId: stored }),
      });
      this.tell(jobId, { kind: 'changed', parts: ['clouds', 'products', 'control', 'history'] });
    } catch (error) {
      const isCancel = error instanceof Cancelled;
      const problem = problemOf(await explained(error, this.folder));
      if (!isCancel && problem.status >= 500) this.log.error({ err: error as Error, run: operation.id }, 'run failed');
      const outcome = isCancel ? 'Cancelled; nothing of it was kept.' : problem.detail;
      const elapsedMs = performance.now() - begun;
      const entryId = historyId;
      if (entryId !== undefined)
        await job
          .write((models) => endEntry(models, entryId, isCancel ? 'cancelled' : 'failed', outcome, elapsedMs))
          .catch(() => undefined);
      this.update(jobId, live, {
        state: isCancel ? 'cancelled' : 'failed',
        elapsedMs,
        outcome,
        ...(!isCancel && { error: problem }),
      });
      this.tell(jobId, { kind: 'changed', parts: ['history'] });
    }
    return live.run;
  }

  private update(jobId: string, live: LiveRun, change: Partial<Run>): void {
    live.run = { ...live.run, ...change };
    this.tell(jobId, { kind: 'run', run: live.run });
  }

  private runsOf(jobId: string): LiveRun[] {
    return [...(this.runs.get(jobId)?.values() ?? [])];
  }

  private live(jobId: string, runId: string): LiveRun {
    const live = this.runs.get(jobId)?.get(runId);
    if (!live) throw notFound('run', runId);
    return live;
  }
}

function isUnderWay({ run }: LiveRun): boolean {
  return run.state === 'queued' || run.state === 'running';
}
