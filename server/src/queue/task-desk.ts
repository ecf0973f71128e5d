import { randomUUID } from 'node:crypto';
import { Cancelled } from '@pampero/core/task';
import { Queue } from 'bullmq';
import { uncarried } from '../errors/carried-error.js';
import { JobError, notFound } from '../errors/job-error.js';
import { TaskPool, type TaskInput, type TaskName, type TaskResult } from '../tasks/task-pool.js';
import { codeSum } from './code-sum.js';
import { pack, sumOf, unpack } from './parcel.js';
import { patiently, type QueueAddress } from './queue-address.js';
import { TRAVELLING } from './travelling.js';

/** How often it is seen to that every task that waits is still in the queue: one that was emptied or lost is filled again. */
const CHECK_MS = 5_000;
/** A machine that has not been heard of for so long takes no part any more. */
const GONE_AFTER_MS = 12_000;

interface TaskAway {
  readonly name: TaskName;
  readonly bytes: Buffer;
  readonly sum: string;
  readonly resolve: (result: unknown) => void;
  readonly reject: (error: unknown) => void;
}

/** What a machine says of itself when it asks to help. */
export interface Helper {
  readonly id: string;
  readonly threads: number;
  readonly code: string;
}

/** What another machine answers with: a result, or why there is none. */
export type TaskAnswer = { readonly result: unknown } | { readonly failed: string };

/**
 * Hands the heavy tasks to other machines as well as to its own threads. A queue says whose turn it is; the points themselves go
 * by HTTP, straight from here, and so do results, so that the queue stays small and holds nothing of a survey. A task whose
 * machine dies is given to another by the queue; its result is taken once, whoever brings it first. Where no machine helps, all is
 * done here.
 */
export class TaskDesk extends TaskPool {
  private readonly queue: Queue;
  private readonly away = new Map<string, TaskAway>();
  private readonly helpers = new Map<string, { readonly threads: number; readonly heardAt: number }>();
  private readonly checking: NodeJS.Timeout;

  constructor(
    ownThreads: number,
    memory: number,
    address: QueueAddress,
    /** Its own, and the same after a restart, so that machines that help find it again. */
    private readonly queueName: string,
    private readonly onTrouble: (error: unknown) => void,
  ) {
    super(ownThreads, memory);
    this.queue = new Queue(this.queueName, { connection: patiently(address) });
    this.queue.on('error', onTrouble);
    // What was left by a server that was stopped is of no use to anyone.
    void this.queue.obliterate({ force: true }).catch(onTrouble);
    this.checking = setInterval(() => void this.fillAgain().catch(onTrouble), CHECK_MS);
    this.checking.unref();
  }

  /** Threads that are there for a pass over a cloud, its own and others'. */
  override get threads(): number {
    return super.threads + this.threadsElsewhere();
  }

  override async run<N extends TaskName>(
    name: N,
    task: TaskInput<N>,
    signal: AbortSignal,
    transfer: ArrayBuffer[] | readonly unknown[] = [],
  ): Promise<TaskResult<N>> {
    if (!TRAVELLING.has(name) || this.threadsElsewhere() === 0 || this.hasRoom())
      return super.run(name, task, signal, transfer);
    return this.send(name, task, signal);
  }

  /** A machine says that it is there. @throws JobError where it has other code: its results could differ */
  welcome({ id, threads, code }: Helper): { readonly queue: string } {
    if (code !== codeSum())
      throw new JobError('bad-request', {
        what: 'This machine runs another version of Pampero than the server, and could compute other results.',
        fix: 'Install the same version on both, build it, and start again.',
      });
    this.helpers.set(id, { threads, heardAt: Date.now() });
    return { queue: this.queueName };
  }

  /** A machine stops. */
  farewell(id: string): void {
    this.helpers.delete(id);
  }

  /** What a task works on. @throws JobError `not-found` where it was cancelled, or another machine was first */
  parcel(taskId: string): { readonly bytes: Buffer; readonly sum: string } {
    const task = this.away.get(taskId);
    if (!task) throw gone(taskId);
    return task;
  }

  isWanted(taskId: string): boolean {
    return this.away.has(taskId);
  }

  /** Takes a result, once. @throws JobError where it did not arrive whole */
  receive(taskId: string, bytes: Uint8Array, sum: string): void {
    const task = this.away.get(taskId);
    if (!task) return;
    if (sumOf(bytes) !== sum)
      throw new JobError('bad-request', { what: 'The result did not arrive whole.', fix: 'Send it again.' });
    this.away.delete(taskId);
    const answer = unpack(bytes) as TaskAnswer;
    if ('failed' in answer) task.reject(new Error(answer.failed));
    else
      try {
        task.resolve(uncarried(answer.result));
      } catch (error) {
        task.reject(error);
      }
  }

  override async close(): Promise<void> {
    clearInterval(this.checking);
    for (const { reject } of this.away.values()) reject(new Cancelled());
    this.away.clear();
    await Promise.race([
      this.queue.obliterate({ force: true }).catch(() => undefined),
      new Promise((resolve) => setTimeout(resolve, 1000)),
    ]);
    await this.queue.close().catch(() => undefined);
    await super.close();
  }

  private threadsElsewhere(): number {
    let threads = 0;
    for (const [id, helper] of this.helpers)
      if (Date.now() - helper.heardAt > GONE_AFTER_MS) this.helpers.delete(id);
      else threads += helper.threads;
    return threads;
  }

  private async send<N extends TaskName>(name: N, task: TaskInput<N>, signal: AbortSignal): Promise<TaskResult<N>> {
    if (signal.aborted) throw new Cancelled();
    const taskId = randomUUID();
    const bytes = pack(task);
    const result = new Promise<unknown>((resolve, reject) => {
      this.away.set(taskId, { name, bytes, sum: sumOf(bytes), resolve, reject });
    });
    const cancel = (): void => {
      this.away.get(taskId)?.reject(new Cancelled());
      this.away.delete(taskId);
      // One that is being worked on ends by itself: its machine asks whether it is still wanted.
      void this.queue.remove(taskId).catch(() => undefined);
    };
    signal.addEventListener('abort', cancel, { once: true });
    try {
      // Where the queue is gone just now, it is filled again when it is back.
      void this.enqueue(taskId, name).catch(this.onTrouble);
      return (await result) as TaskResult<N>;
    } finally {
      signal.removeEventListener('abort', cancel);
    }
  }

  private async enqueue(taskId: string, name: TaskName): Promise<void> {
    await this.queue.add(
      name,
      {},
      {
        jobId: taskId,
        attempts: 20,
        backoff: { type: 'fixed', delay: 1000 },
        removeOnComplete: true,
        removeOnFail: true,
      },
    );
  }

  /** Tasks that wait and that the queue knows nothing of, or has given up. With nobody left to do them they are done here. */
  private async fillAgain(): Promise<void> {
    for (const [taskId, task] of this.away) {
      if (this.threadsElsewhere() === 0) {
        this.away.delete(taskId);
        await this.queue.remove(taskId).catch(() => undefined);
        super.run(task.name, unpack(task.bytes) as never, new AbortController().signal).then(task.resolve, task.reject);
      } else if (!(await this.queue.getJob(taskId)) && this.away.has(taskId)) await this.enqueue(taskId, task.name);
    }
  }
}

function gone(taskId: string): JobError {
  return notFound('task', taskId, 'It was cancelled, or another machine was first.');
}
