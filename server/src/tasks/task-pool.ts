import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { existsSync } from 'node:fs';
import { Cancelled, PamperoError } from '@pampero/core/task';
import { Piscina } from 'piscina';
import type * as worker from './worker.js';
import type { CarriedError } from './worker.js';

type TaskName = keyof typeof worker;
type TaskInput<N extends TaskName> = Parameters<(typeof worker)[N]>[0];
type TaskResult<N extends TaskName> = Exclude<Awaited<ReturnType<(typeof worker)[N]>>, CarriedError>;
type WithoutPort<T> = Omit<T, 'port'>;

/** The built worker, also when the server itself runs from its sources under test. */
function workerFile(): string {
  const beside = new URL('./worker.js', import.meta.url);
  return existsSync(beside) ? beside.href : new URL('../../dist/tasks/worker.js', import.meta.url).href;
}

/** Hands tasks to worker threads. Cancelling ends the thread at once; a new one takes its place. */
export class TaskPool {
  private readonly pool: Piscina;

  constructor(readonly threads: number) {
    this.pool = new Piscina({ filename: workerFile(), minThreads: 1, maxThreads: threads, idleTimeout: 60_000 });
  }

  /** @throws PamperoError as the task threw it; Cancelled when the signal fires */
  async run<N extends TaskName>(
    name: N,
    task: TaskInput<N>,
    signal: AbortSignal,
    transfer: ArrayBuffer[] | readonly unknown[] = [],
  ): Promise<TaskResult<N>> {
    if (signal.aborted) throw new Cancelled();
    try {
      const result: TaskResult<N> | CarriedError = await this.pool.run(task, {
        name,
        signal,
        transferList: [...transfer] as never,
      });
      if (isCarried(result)) {
        throw new PamperoError(result.code, {
          what: result.what,
          ...(result.where && { where: result.where }),
          ...(result.fix && { fix: result.fix }),
        });
      }
      return result;
    } catch (error) {
      if (signal.aborted) throw new Cancelled();
      throw error;
    }
  }

  /** As {@link run}, with a port on which the task tells its progress. */
  async runWatched<N extends TaskName>(
    name: N,
    task: WithoutPort<TaskInput<N>>,
    signal: AbortSignal,
    onMessage: (message: unknown, port: MessagePort) => void,
    transfer: ArrayBuffer[] = [],
  ): Promise<TaskResult<N>> {
    const { port1, port2 } = new MessageChannel();
    port1.on('message', (message) => onMessage(message, port1));
    try {
      return await this.run(name, { ...task, port: port2 } as TaskInput<N>, signal, [port2, ...transfer]);
    } finally {
      port1.close();
    }
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}

function isCarried(result: unknown): result is CarriedError {
  return typeof result === 'object' && result !== null && (result as { carried?: unknown }).carried === true;
}
