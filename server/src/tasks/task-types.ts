import type { CarriedError } from '../errors/carried-error.js';
import type * as worker from './worker.js';

/** What threads can be asked for, by name. */
export type TaskName = keyof typeof worker;
export type TaskInput<N extends TaskName> = Parameters<(typeof worker)[N]>[0];
export type TaskResult<N extends TaskName> = Exclude<Awaited<ReturnType<(typeof worker)[N]>>, CarriedError>;
/** A task as it is asked for; the port on which it tells its progress is added on the way. */
export type WithoutPort<T> = Omit<T, 'port'>;
