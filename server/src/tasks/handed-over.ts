import { Piscina } from 'piscina';
import { memoryOf } from '../shared-memory.js';

/**
 * A worker's function whose result is columns of a whole cloud: their memory goes to who asked, rather than a copy of it. They must be
 * fresh, with nothing left in the thread that needs them.
 */
export function handedOver<Task, Result>(work: (task: Task) => Promise<Result>): (task: Task) => Promise<Result> {
  return async (task) => {
    const result = await work(task);
    if (typeof result !== 'object' || result === null) return result;
    const memory = [result, ...Object.values(result as object)].flatMap((part: unknown) =>
      typeof part === 'object' && part !== null && !ArrayBuffer.isView(part) ? memoryOf(part) : [],
    );
    return Piscina.move({ [Piscina.transferableSymbol]: memory, [Piscina.valueSymbol]: result } as never) as Result;
  };
}
