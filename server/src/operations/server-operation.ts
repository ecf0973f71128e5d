import type { Job, OperationDescription, Product, SettingsProposal } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import type { z } from 'zod';
import { JobError } from '../errors/job-error.js';
import type { FoundFile, IncomingFiles } from '../incoming/incoming-files.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { MemoryPlan } from '../memory-plan.js';
import type { Outside } from '../network/outside.js';
import type { RunWork } from '../runs/run-service.js';
import type { JobFile } from '../store/job-file.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Writes a product of a job to a file, in a thread of its own. */
export type WriteProduct = (
  task: {
    readonly jobPath: string;
    readonly job: Job;
    readonly product: Product;
    readonly formatId: string;
    readonly target: string;
  },
  signal: AbortSignal,
) => Promise<void>;

/** What an operation is given beside its parameters. */
export interface Surroundings {
  readonly pool: TaskPool;
  readonly unit: LengthUnit;
  readonly job: Job;
  readonly file: JobFile;
  readonly memory: MemoryPlan;
  readonly library: JobLibrary;
  readonly incoming: IncomingFiles;
  readonly writeProduct: WriteProduct;
  /** Those outside whom an operation may ask. */
  readonly outside: Outside;
  /** The product whose place the new one takes. */
  readonly replaces?: number | undefined;
}
/** ... and one that works from a file. */
export interface FileSurroundings extends Surroundings {
  readonly source: FoundFile;
}

export interface Prepared {
  /** What the field book keeps. */
  readonly parameters: Record<string, unknown>;
  readonly work: RunWork;
  /** Gives back what was received for this run alone; called when it is over, however it ended. */
  readonly release?: () => Promise<void>;
}

/** The server's half of an operation: checks what was given, and answers with the work. */
export interface ServerOperation {
  readonly description: OperationDescription;
  prepare(given: unknown, surroundings: Surroundings & { readonly source?: FoundFile }): Promise<Prepared>;
  /** Settings proposed from the data for what was given, where the operation has a way to. */
  readonly propose?: (
    given: Readonly<Record<string, unknown>>,
    surroundings: Surroundings,
  ) => Promise<SettingsProposal>;
}

type ParametersOf<D extends OperationDescription> = z.output<ReturnType<D['parameters']>>;

/**
 * @param begin - may read and refuse before the run begins
 * @param told - what the field book keeps, where that is not the parameters themselves
 */
export function serverOperation<D extends OperationDescription>(
  description: D,
  begin: (parameters: ParametersOf<D>, surroundings: Surroundings) => RunWork | Promise<RunWork>,
  told: (parameters: ParametersOf<D>) => Record<string, unknown> = (parameters) => parameters,
): ServerOperation {
  return {
    description,
    async prepare(given, surroundings) {
      const parameters = description.parameters(surroundings.unit).parse(given) as ParametersOf<D>;
      return { parameters: told(parameters), work: await begin(parameters, surroundings) };
    },
  };
}

/** An operation that works from a file: it takes the file away when all is done, or when it is refused. */
export function fileOperation<D extends OperationDescription>(
  description: D,
  begin: (parameters: ParametersOf<D>, surroundings: FileSurroundings) => RunWork | Promise<RunWork>,
): ServerOperation {
  return {
    description,
    async prepare(given, { source, ...surroundings }) {
      if (!source)
        throw new JobError('no-file', {
          what: `${description.title} needs a file.`,
          fix: 'Give "file", or send it as the body of a request to this address with /file at its end.',
        });
      try {
        const parameters = description.parameters(surroundings.unit).parse(given) as ParametersOf<D>;
        const work = await begin(parameters, { ...surroundings, source });
        return {
          parameters: { fileName: source.fileName, ...parameters },
          work,
          release: () => source.discard(),
        };
      } catch (error) {
        await source.discard();
        throw error;
      }
    },
  };
}
