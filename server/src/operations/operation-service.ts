import { rm } from 'node:fs/promises';
import {
  operationById,
  referencesOf,
  type IncomingFile,
  type OperationDescription,
  type Run,
  type SettingsProposal,
} from '@pampero/contract';
import { JobError } from '../errors/job-error.js';
import type { FoundFile, IncomingFiles } from '../incoming/incoming-files.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { MemoryPlan } from '../memory-plan.js';
import type { Outside } from '../network/outside.js';
import type { RunService } from '../runs/run-service.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { readyCloud } from '../store/cloud-repository.js';
import { readProduct } from '../store/product-repository.js';
import type { SheetStepOf } from '../store/history-repository.js';
import type { OperationCatalogue } from './operation-catalogue.js';
import { rebuildPlan, type LeftStale } from './rebuild.js';
import type { ServerOperation, Surroundings, WriteProduct } from './server-operation.js';
import { refuseUnknownNames } from './unknown-names.js';

export interface StartedRun {
  readonly run: Run;
  readonly finished: Promise<Run>;
}

/** Starts operations on jobs. */
export class OperationService {
  constructor(
    private readonly catalogue: OperationCatalogue,
    private readonly library: JobLibrary,
    private readonly runs: RunService,
    private readonly pool: TaskPool,
    private readonly incoming: IncomingFiles,
    private readonly memory: MemoryPlan,
    private readonly writeProduct: WriteProduct,
    private readonly outside: Outside,
  ) {}

  /** Starts an operation with its parameters, and with a file where it works from one. */
  async start(
    jobId: string,
    operationId: string,
    { file, ...given }: Readonly<Record<string, unknown>> & { readonly file?: IncomingFile | undefined },
  ): Promise<StartedRun> {
    const source = file && (await this.incoming.find(file));
    try {
      return await this.begin(jobId, operationId, await this.filledIn(jobId, operationId, given), source);
    } catch (error) {
      // A file that was sent for this alone is of no use to anyone now.
      if (await this.isGone(jobId)) await source?.discard();
      throw error;
    }
  }

  /** As {@link start}, with a file that was received for this run alone; it is removed when the run ends or is refused. */
  async startWithFile(
    jobId: string,
    operationId: string,
    { path, fileName }: { readonly path: string; readonly fileName: string },
    given: Readonly<Record<string, unknown>>,
  ): Promise<StartedRun> {
    const discard = (): Promise<void> => rm(path, { force: true });
    try {
      return await this.begin(jobId, operationId, given, { path, fileName, discard });
    } catch (error) {
      await discard();
      throw error;
    }
  }

  /** Builds every stale product again, each with its own parameters and in its place, after those it hangs on. */
  async rebuildStale(jobId: string): Promise<{ runs: Run[]; left: LeftStale[] }> {
    const surroundings = await this.surroundings(jobId);
    const { steps, left } = await rebuildPlan(surroundings.file.read);
    const runs = steps.map(({ product, description, parametersNow }) => {
      const operation = this.operation(description.id);
      const { run } = this.runs.start(jobId, surroundings.file, description, product.parameters, async (context) => {
        const parameters = await parametersNow(context.job.read);
        const prepared = await operation.prepare(parameters, { ...surroundings, replaces: product.id });
        return prepared.work(context);
      });
      return run;
    });
    return { runs, left };
  }

  /**
   * Starts an operation for a step of a run sheet. A file is taken away by whoever runs the sheet, not with the step.
   * @param isProposed - whether what was not given is proposed from the data first
   */
  async startForSheet(
    jobId: string,
    operationId: string,
    given: Readonly<Record<string, unknown>>,
    source: FoundFile | undefined,
    sheetStep: SheetStepOf,
    isProposed: boolean,
  ): Promise<StartedRun> {
    const all = isProposed ? await this.filledIn(jobId, operationId, given) : given;
    return this.begin(jobId, operationId, all, source, sheetStep);
  }

  /** Whether what is left out of an operation's settings is proposed from the data. */
  proposes(operationId: string): boolean {
    return this.operation(operationId).propose !== undefined;
  }

  /** Settings of an operation as the data proposes them, and why. */
  async propose(
    jobId: string,
    operationId: string,
    given: Readonly<Record<string, unknown>>,
  ): Promise<SettingsProposal> {
    const { propose } = this.operation(operationId);
    return propose ? propose(given, await this.surroundings(jobId)) : { parameters: {}, reasons: [] };
  }

  /** What was given, and for what was not the settings proposed: a script gets the same as the form shows. */
  private async filledIn(
    jobId: string,
    operationId: string,
    given: Readonly<Record<string, unknown>>,
  ): Promise<Record<string, unknown>> {
    const { propose, description } = this.operation(operationId);
    if (!propose) return given;
    const asked = Object.keys(description.parameters('metre').shape);
    if (asked.every((name) => name in given)) return given;
    return { ...(await propose(given, await this.surroundings(jobId))).parameters, ...given };
  }

  private async begin(
    jobId: string,
    operationId: string,
    given: Readonly<Record<string, unknown>>,
    source: FoundFile | undefined,
    sheetStep?: SheetStepOf,
  ): Promise<StartedRun> {
    const operation = this.operation(operationId);
    const surroundings = await this.surroundings(jobId);
    await this.refuseUnknown(operation, given, surroundings, source);
    // Reading a large file before the run begins can take longer than an idle job stays open.
    const letGo = surroundings.file.hold();
    try {
      const prepared = await operation.prepare(given, { ...surroundings, ...(source && { source }) });
      const { parameters, work, release } = prepared;
      return this.runs.start(jobId, surroundings.file, operation.description, parameters, work, release, sheetStep);
    } finally {
      letGo();
    }
  }

  /** A name that is no parameter, and a number that is no cloud or product here, are refused before anything is done. */
  private async refuseUnknown(
    { description }: ServerOperation,
    given: Readonly<Record<string, unknown>>,
    { file, unit }: Surroundings,
    source: FoundFile | undefined,
  ): Promise<void> {
    try {
      refuseUnknownNames(description, given, unit);
      // What is no number at all is said by the schema.
      const { data } = description.parameters(unit).safeParse(given);
      for (const { refersTo, id } of data ? referencesOf(description, data) : [])
        await (refersTo === 'cloud'
          ? readyCloud(file.read, id)
          : refersTo === 'product'
            ? readProduct(file.read, id)
            : readProduct(file.read, id, refersTo));
    } catch (error) {
      await source?.discard();
      throw error;
    }
  }

  private async isGone(jobId: string): Promise<boolean> {
    return this.library.describe(jobId).then(
      () => false,
      () => true,
    );
  }

  private async surroundings(jobId: string): Promise<Surroundings> {
    const job = await this.library.describe(jobId);
    const { pool, memory, library, incoming, writeProduct, outside } = this;
    return {
      pool,
      memory,
      library,
      incoming,
      writeProduct,
      outside,
      job,
      unit: job.unit,
      file: await library.file(jobId),
    };
  }

  private operation(id: string): ServerOperation {
    const description: OperationDescription | undefined = operationById(id);
    const operation = description && this.catalogue.get(description.id as never);
    if (!operation)
      throw new JobError('not-found', {
        what: `There is no operation ${id}.`,
        fix: 'GET /api/operations lists them.',
      });
    return operation;
  }
}
