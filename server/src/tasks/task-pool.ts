import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { stat } from 'node:fs/promises';
import { FormatError } from '@pampero/core/formats';
import { Cancelled, PamperoError } from '@pampero/core/task';
import { Piscina } from 'piscina';
import { roomFor } from '../memory-plan.js';
import { MemoryGate } from './memory-gate.js';
import { megabytesOf } from './memory-of-tasks.js';
import { ReadingGuard } from './reading-guard.js';
import { THREAD_ARGUMENTS, workerFile } from './worker-file.js';
import type { TaskInput, TaskName, TaskResult, WithoutPort } from './task-types.js';
import { uncarried, type CarriedError } from '../errors/carried-error.js';

export type { TaskInput, TaskName, TaskResult };

/** Megabytes of JavaScript objects that one thread may hold; beyond, the thread ends with an error and the server goes on. */
const HEAP_MEGABYTES = 4096;
/** Memory to keep to where nothing else is said, megabytes. */
const MEGABYTES = 1500;

/** The file that a task reads, and who may end it. */
export interface Reading {
  readonly path: string;
  readonly fileName: string;
  readonly signal?: AbortSignal;
  readonly onMessage?: (message: unknown, port: MessagePort) => void;
}

/**
 * Hands tasks to worker threads. Cancelling ends the thread at once; a new one takes its place. Tasks that hold much memory wait
 * for one another. Files that come from outside are read in threads of their own, and under a guard.
 */
export class TaskPool {
  private readonly working: Piscina;
  private readonly reading: Piscina;
  private readonly gate: MemoryGate;
  private underWay = 0;
  /** Tasks that are ended as the server stops say nothing of their files. */
  private isClosed = false;

  constructor(
    private readonly ownThreads: number,
    private readonly megabytes = MEGABYTES,
  ) {
    this.gate = new MemoryGate(roomFor(megabytes));
    const options = {
      filename: workerFile(import.meta.url),
      execArgv: [...THREAD_ARGUMENTS],
      maxThreads: ownThreads,
      idleTimeout: 60_000,
      resourceLimits: { maxOldGenerationSizeMb: HEAP_MEGABYTES },
      // A library of those that read files looks into it, and fails where there is none.
      workerData: {},
    };
    this.working = new Piscina({ ...options, minThreads: 1 });
    this.reading = new Piscina({
      ...options,
      minThreads: 0,
      resourceLimits: { maxOldGenerationSizeMb: Math.min(HEAP_MEGABYTES, megabytes) },
    });
  }

  /** How many tasks can be under way at once. */
  get threads(): number {
    return this.ownThreads;
  }

  /** Whether a thread of its own has nothing to do. */
  protected hasRoom(): boolean {
    return this.underWay < this.ownThreads;
  }

  /** Whether a task would have to wait now until others have given their memory back. */
  mustWait<N extends TaskName>(name: N, task: WithoutPort<TaskInput<N>>): boolean {
    const megabytes = megabytesOf(name, task);
    return megabytes > 0 && this.gate.mustWait(megabytes);
  }

  /** @throws PamperoError as the task threw it; Cancelled when the signal fires, and when the pool is closed meanwhile */
  run<N extends TaskName>(
    name: N,
    task: TaskInput<N>,
    signal: AbortSignal,
    transfer: ArrayBuffer[] | readonly unknown[] = [],
  ): Promise<TaskResult<N>> {
    return this.runIn(this.working, name, task, signal, transfer);
  }

  /** As {@link run}, with a port on which the task tells its progress. */
  runWatched<N extends TaskName>(
    name: N,
    task: WithoutPort<TaskInput<N>>,
    signal: AbortSignal,
    onMessage: (message: unknown, port: MessagePort) => void,
    transfer: ArrayBuffer[] = [],
  ): Promise<TaskResult<N>> {
    return this.watchedIn(this.working, name, task, signal, onMessage, transfer);
  }

  /**
   * Runs a task that reads a file from outside: in a thread of its own kind, ended where it takes too long without a sign of
   * progress, or too much memory.
   * @throws FormatError for whatever goes wrong with the file; Cancelled when the signal fires
   */
  async read<N extends TaskName>(
    name: N,
    task: WithoutPort<TaskInput<N>>,
    { path, fileName, signal, onMessage }: Reading,
  ): Promise<TaskResult<N>> {
    const { size } = await stat(path);
    const guard = new ReadingGuard({ fileName, bytes: size }, this.megabytes, () => this.underWay > 1);
    const either = signal ? AbortSignal.any([signal, guard.signal]) : guard.signal;
    try {
      if (!onMessage) return await this.runIn(this.reading, name, task as TaskInput<N>, either, []);
      const heard = (message: unknown, port: MessagePort): void => {
        guard.heard();
        onMessage(message, port);
      };
      return await this.watchedIn(this.reading, name, task, either, heard, []);
    } catch (error) {
      if (signal?.aborted || this.isClosed) throw new Cancelled();
      const told = guard.explain(error);
      if (told instanceof PamperoError) throw told;
      throw new FormatError('not-this-format', {
        what: `${fileName} cannot be read: ${told instanceof Error ? told.message : String(told)}.`,
        fix: 'It may be damaged: copy or export it again.',
      });
    } finally {
      guard.stop();
    }
  }

  private async runIn<N extends TaskName>(
    pool: Piscina,
    name: N,
    task: TaskInput<N>,
    signal: AbortSignal,
    transfer: ArrayBuffer[] | readonly unknown[],
  ): Promise<TaskResult<N>> {
    if (signal.aborted) throw new Cancelled();
    const megabytes = megabytesOf(name, task);
    // One that holds little waits for nobody.
    const giveBack = megabytes > 0 ? await this.gate.enter(megabytes, signal) : undefined;
    this.underWay++;
    try {
      const result: TaskResult<N> | CarriedError = await pool.run(task, {
        name,
        signal,
        transferList: [...transfer] as never,
      });
      return uncarried(result);
    } catch (error) {
      if (signal.aborted || this.isClosed) throw new Cancelled();
      throw error;
    } finally {
      this.underWay--;
      giveBack?.();
    }
  }

  private async watchedIn<N extends TaskName>(
    pool: Piscina,
    name: N,
    task: WithoutPort<TaskInput<N>>,
    signal: AbortSignal,
    onMessage: (message: unknown, port: MessagePort) => void,
    transfer: ArrayBuffer[],
  ): Promise<TaskResult<N>> {
    const { port1, port2 } = new MessageChannel();
    port1.on('message', (message) => onMessage(message, port1));
    try {
      return await this.runIn(pool, name, { ...task, port: port2 } as TaskInput<N>, signal, [port2, ...transfer]);
    } finally {
      port1.close();
    }
  }

  async close(): Promise<void> {
    this.isClosed = true;
    await Promise.all([this.working.destroy(), this.reading.destroy()]);
  }
}
