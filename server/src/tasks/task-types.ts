import type { CarriedError } from '../errors/carried-error.js';
import type * as worker from './worker.js';

/** What threads can be asked for, by name. */
export type TaskName = keyof typeof worker;
export type TaskInput<N extends TaskName> = Parameters<(typeof worker)[N]>[0];
export type TaskResult<N extends TaskName> = Exclude<Awaited<ReturnType<(typeof worker)[N]>>, CarriedError>;
