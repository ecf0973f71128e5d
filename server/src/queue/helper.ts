import { randomUUID } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { Cancelled, PamperoError } from '@pampero/core/task';
import { UnrecoverableError, Worker, type Job } from 'bullmq';
import { TaskPool, type TaskName } from '../tasks/task-pool.js';
import { carriedFacts } from '../errors/carried-error.js';
import { codeSum } from './code-sum.js';
import { pack, sumOf, unpack } from './parcel.js';
import { patiently, type QueueAddress } from './queue-address.js';
import type { TaskAnswer } from './task-desk.js';
import { TRAVELLING } from './travelling.js';
import { SUM_HEADER, WORK_PATH } from './work-path.js';

/** How often the server hears that this machine is there, and is asked whether what is being done is still wanted. */
const HELLO_MS = 3_000;
const WANTED_MS = 2_000;
/** A machine that says nothing to the queue for so long is taken for dead, and its tasks are given to others. */
const LOCK_MS = 12_000;
/** No tile takes longer; one that does hangs. */
const LONGEST_MS = 15 * 60_000;

export interface HelperOptions {
  readonly server: string;
  readonly token: string | undefined;
  readonly queue: QueueAddress;
  readonly threads: number;
  readonly memory: number;
  readonly tell: (words: string) => void;
}

/** Takes tasks of a server off its queue, does them in threads of this machine, and brings the results back. */
export class TaskHelper {
  private readonly id = randomUUID();
  private readonly pool: TaskPool;
  private readonly stopped = new AbortController();
  private worker: Worker | undefined;
  private queueName = '';
  private done = 0;

  constructor(private readonly options: HelperOptions) {
    this.pool = new TaskPool(options.threads, options.memory);
  }

  /** Works until it is stopped. @throws PamperoError where the server will not have it */
  async work(): Promise<void> {
    let isLost = false;
    while (!this.stopped.signal.aborted) {
      try {
        await this.sayHello();
        if (isLost) this.options.tell('The server is back.');
        isLost = false;
      } catch (error) {
        if (error instanceof PamperoError) throw error;
        // A server that is started again is found again; only at first it has to be there.
        if (this.queueName === '') throw error;
        if (!isLost) this.options.tell('The server does not answer. Waiting for it.');
        isLost = true;
      }
      await wait(HELLO_MS, undefined, { signal: this.stopped.signal }).catch(() => undefined);
    }
  }

  /** Ends what is under way, which others then do, and says good-bye. */
  async stop(): Promise<void> {
    this.stopped.abort();
    await this.post('/farewell', this.facts()).catch(() => undefined);
    // What is cancelled goes back to the queue at once, if it can be reached; otherwise when this machine is missed.
    await Promise.race([this.worker?.close(), wait(3000)]);
    await this.pool.close();
    this.options.tell(`Stopped. ${this.done} tasks done.`);
  }

  private async sayHello(): Promise<void> {
    const answer = await this.post('/hello', this.facts());
    const { queue } = (await answer.json()) as { queue: string };
    if (queue === this.queueName) return;
    // A server that was started again has a queue of its own.
    await this.worker?.close(true);
    this.queueName = queue;
    const { threads, tell } = this.options;
    this.worker = new Worker(queue, (job) => this.take(job), {
      connection: patiently(this.options.queue),
      // One more than there are threads: its points come while the others are worked on.
      concurrency: threads + 1,
      lockDuration: LOCK_MS,
      stalledInterval: LOCK_MS / 2,
      maxStalledCount: 20,
    });
    let isTold = false;
    this.worker.on('error', (error) => {
      if (!isTold) tell(`The queue: ${error.message}. Waiting for it.`);
      isTold = true;
    });
    this.worker.on('ready', () => (isTold = false));
    tell(`Working for ${this.options.server} in ${threads} threads.`);
  }

  private facts(): object {
    return { id: this.id, threads: this.options.threads, code: codeSum() };
  }

  private async take({ id, name }: Job): Promise<void> {
    const path = `/tasks/${id}`;
    const given = await this.ask(path);
    if (given.status === 404) return; // cancelled, or done by another
    const bytes = new Uint8Array(await given.arrayBuffer());
    if (sumOf(bytes) !== given.headers.get(SUM_HEADER)) throw new Error('The task did not arrive whole.');
    if (!TRAVELLING.has(name as TaskName)) throw new UnrecoverableError(`There is no task ${name}.`);
    const answer = await this.answerTo(path, name as TaskName, unpack(bytes));
    if (answer === undefined) return;
    const packed = pack(answer);
    await this.post(path, packed, { [SUM_HEADER]: sumOf(packed), 'content-type': 'application/octet-stream' });
    this.done++;
    if (this.done % 100 === 0) this.options.tell(`${this.done} tasks done.`);
  }

  /** Undefined where nobody wants it any more. */
  private async answerTo(path: string, name: TaskName, task: unknown): Promise<TaskAnswer | undefined> {
    const unwanted = new AbortController();
    const begun = Date.now();
    const asking = setInterval(() => {
      if (Date.now() - begun > LONGEST_MS) unwanted.abort();
      this.ask(`${path}/wanted`)
        .then(async (answer) => ((await answer.json()) as { isWanted: boolean }).isWanted || unwanted.abort())
        .catch(() => undefined); // not knowing, it goes on
    }, WANTED_MS);
    try {
      const signal = AbortSignal.any([unwanted.signal, this.stopped.signal]);
      return { result: await this.pool.run(name, task as never, signal) };
    } catch (error) {
      if (this.stopped.signal.aborted) throw error; // others do it
      if (error instanceof Cancelled) return undefined;
      if (error instanceof PamperoError) return { result: carriedFacts(error) };
      return { failed: error instanceof Error ? (error.stack ?? error.message) : String(error) };
    } finally {
      clearInterval(asking);
    }
  }

  private ask(path: string): Promise<Response> {
    return fetch(`${this.options.server}${WORK_PATH}${path}`, { headers: this.headers() });
  }

  private async post(path: string, body: object | Buffer, more: Record<string, string> = {}): Promise<Response> {
    const isBytes = Buffer.isBuffer(body);
    const answer = await fetch(`${this.options.server}${WORK_PATH}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...this.headers(), ...more },
      body: isBytes ? new Uint8Array(body) : JSON.stringify(body),
    });
    if (answer.ok) return answer;
    const problem = (await answer.json().catch(() => ({}))) as { code?: string; title?: string; fix?: string };
    const { code = 'refused', title = `The server answered ${answer.status}.`, fix } = problem;
    throw new PamperoError(code, { what: title, ...(fix !== undefined && { fix }) });
  }

  private headers(): Record<string, string> {
    return this.options.token === undefined ? {} : { authorization: `Bearer ${this.options.token}` };
  }
}
