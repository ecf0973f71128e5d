import { Cancelled } from '@pampero/core/task';
import { Piscina } from 'piscina';
import { uncarried, type CarriedError } from '../errors/carried-error.js';
import { THREAD_ARGUMENTS, workerFile } from '../tasks/worker-file.js';
import type * as worker from './worker.js';

type Writer = 'writeProduct' | 'writeTogether' | 'writePoints' | 'writeView' | 'writeReport';
type WriterTask<N extends Writer> = Omit<Parameters<(typeof worker)[N]>[0], 'stop'>;

/**
 * Writes files to hand over in threads of their own, a few at a time, so that the server answers meanwhile. A file that nobody
 * waits for any more is given up.
 */
export class WritingPool {
  private readonly pool: Piscina;

  constructor(threads: number) {
    this.pool = new Piscina({
      filename: workerFile(import.meta.url),
      execArgv: [...THREAD_ARGUMENTS],
      minThreads: 0,
      maxThreads: threads,
      idleTimeout: 30_000,
    });
  }

  /** @throws PamperoError as the writer threw it; Cancelled when the signal fires */
  async write<N extends Writer>(name: N, task: WriterTask<N>, signal: AbortSignal): Promise<void> {
    const stop = new Uint8Array(new SharedArrayBuffer(1));
    const end = (): void => void Atomics.store(stop, 0, 1);
    signal.addEventListener('abort', end, { once: true });
    try {
      if (signal.aborted) throw new Cancelled();
      const result = (await this.pool.run({ ...task, stop }, { name })) as undefined | CarriedError;
      uncarried(result);
    } catch (error) {
      if (signal.aborted) throw new Cancelled();
      throw error;
    } finally {
      signal.removeEventListener('abort', end);
    }
  }

  /** Waits for what is being written. */
  close(): Promise<void> {
    return this.pool.close();
  }
}
