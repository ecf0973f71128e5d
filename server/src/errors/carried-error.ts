import { PamperoError } from '@pampero/core/task';

/** Facts of an error that came out of a worker: a thrown class does not survive the way between threads. */
export interface CarriedError {
  readonly carried: true;
  readonly code: string;
  readonly what: string;
  readonly where?: string | undefined;
  readonly fix?: string | undefined;
}

export function carriedFacts({ code, what, where, fix }: PamperoError): CarriedError {
  return { carried: true, code, what, where, fix };
}

/** A worker's function that answers with its result, or with the facts of its error. */
export function guarded<Task, Result>(
  work: (task: Task) => Result | Promise<Result>,
): (task: Task) => Promise<Result | CarriedError> {
  return async (task) => {
    try {
      return await work(task);
    } catch (error) {
      if (error instanceof PamperoError) return carriedFacts(error);
      throw error;
    }
  };
}

/** The result of a worker's function. @throws PamperoError where it is the facts of one */
export function uncarried<Result>(result: Result | CarriedError): Result {
  if (typeof result !== 'object' || result === null || (result as { carried?: unknown }).carried !== true)
    return result as Result;
  const { code, what, where, fix } = result as CarriedError;
  throw new PamperoError(code, { what, ...(where && { where }), ...(fix && { fix }) });
}
