import { rm } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { finishCloud, insertImportingCloud, insertNode, removeCloud, type NewNode } from '../store/cloud-repository.js';
import type { RunWork } from '../runs/run-service.js';
import type { ImportMessage } from '../tasks/import-task.js';
import type { TaskPool } from '../tasks/task-pool.js';
import type { Crs } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';

export interface ImportCloudOptions {
  /** The received file; removed when the run ends. */
  readonly path: string;
  readonly fileName: string;
  readonly name: string | undefined;
  readonly jobCrs: Crs;
  readonly jobUnit: LengthUnit;
}

/**
 * Stores a file's points node by node under a cloud that counts as "importing" until the last; only then does it exist for
 * anyone. A failure, a cancel or the next start after a kill takes the half cloud away.
 */
export function importCloudWork(pool: TaskPool, options: ImportCloudOptions): RunWork {
  return async ({ job, signal, report }) => {
    const name = options.name ?? basename(options.fileName, extname(options.fileName));
    let cloudId: number | undefined;
    try {
      const id = (cloudId = await job.write((models) => insertImportingCloud(models, name)));
      let writing: Promise<unknown> = Promise.resolve();
      let writeError: unknown;
      const store = (node: NewNode, done: () => void): void => {
        writing = writing
          .then(() => (writeError === undefined ? job.write((models) => insertNode(models, id, node)) : undefined))
          .catch((error: unknown) => (writeError ??= error))
          .then(done);
      };
      const { facts, pointCount } = await pool.runWatched(
        'importLas',
        { path: options.path, fileName: options.fileName },
        signal,
        (given, port) => {
          const message = given as ImportMessage;
          if (message.kind === 'progress') report(message.share, message.step);
          else store(message.node, () => port.postMessage('stored'));
        },
      );
      await writing;
      if (writeError !== undefined) throw writeError;
      const warnings = [...facts.warnings, ...crsWarnings(facts.source.crs, options)];
      return {
        outcome: `${pointCount.toLocaleString('en').replaceAll(',', ' ')} points from ${options.fileName}${warnings.length > 0 ? `, ${warnings.length} ${warnings.length === 1 ? 'warning' : 'warnings'}` : ''}`,
        figures: [
          { label: 'Points', value: pointCount, quantity: 'count' },
          { label: 'Strips', value: facts.source.strips.length, quantity: 'count' },
          ...warnings.map((warning) => ({ label: 'Warning', value: warning.message, quantity: 'text' as const })),
        ],
        store: async (models) => {
          await finishCloud(models, id, pointCount, { ...facts, warnings });
          return { effects: [{ kind: 'cloud', id }], productId: id };
        },
      };
    } catch (error) {
      const id = cloudId;
      if (id !== undefined) {
        await job.write((models) => removeCloud(models, id));
        await job.giveBackSpace();
      }
      throw error;
    } finally {
      await rm(options.path, { force: true });
    }
  };
}

/** The file's system against the job's: nothing is moved, but a difference is said aloud. */
function crsWarnings(
  file: Crs | undefined,
  { jobCrs, jobUnit }: ImportCloudOptions,
): { code: string; message: string }[] {
  if (!file || (file.epsg === undefined && file.horizontalUnit === undefined)) {
    return [
      {
        code: 'crs-missing',
        message: `The file states no coordinate system; it is taken to be in the job’s, ${jobCrs.name ?? 'local'}.`,
      },
    ];
  }
  const warnings: { code: string; message: string }[] = [];
  if (file.isGeographic)
    warnings.push({
      code: 'crs-geographic',
      message: 'The file’s coordinates are degrees; no surface can be built from them.',
    });
  if (file.epsg !== undefined && jobCrs.epsg !== undefined && file.epsg !== jobCrs.epsg) {
    warnings.push({
      code: 'crs-differs',
      message: `The file is in EPSG:${file.epsg}, the job in EPSG:${jobCrs.epsg}. The coordinates were taken as they are.`,
    });
  }
  if (file.horizontalUnit && file.horizontalUnit !== jobUnit) {
    warnings.push({
      code: 'unit-differs',
      message: `The file is in ${lengthUnits[file.horizontalUnit].name}, the job in ${lengthUnits[jobUnit].name}. The coordinates were taken as they are.`,
    });
  }
  return warnings;
}
