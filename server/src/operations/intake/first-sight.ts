import { rm } from 'node:fs/promises';
import { Cancelled } from '@pampero/core/task';
import type { MemoryPlan } from '../../memory-plan.js';
import type { RunContext } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { insertImportingCloud, removeCloud, showIncoming } from '../../store/cloud-repository.js';
import type { Models } from '../../store/models.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import type { LasFacts } from '../../tasks/reading-tasks.js';
import { buildCloud } from './cloud-builder.js';
import { type SortedExtent } from './sort-records.js';
import { coordinatesOf, factsOf } from './imported-facts.js';
import { lasRecordSource } from './las-source.js';
import { openPath, reproject, type Move } from './move-into-job.js';

/** Fewer points are in before anyone has looked. */
const LEAST_POINTS = 2_500_000;
/** Enough to fill a screen, few enough to be there in a second. */
const SHOWN_POINTS = 150_000;
/** How often the page is told of squares that were stored meanwhile. */
const TELL_EVERY_MS = 1500;

/** A file on its way in, as LAS. */
export interface FileInSight {
  readonly path: string;
  readonly fileName: string;
  readonly name: string;
  readonly format: string;
  readonly facts: { readonly las: LasFacts; readonly size: number };
  readonly move: Move | undefined;
  /** Beside it files of its own are written, and removed. */
  readonly spillPath: string;
}

type Context = Pick<RunContext, 'job' | 'signal' | 'announce'>;

/**
 * Shows points from here and there in a file while the rest of it comes in: extent, density and wrong units are seen in the first
 * seconds. It is a small cloud built as any other, of a sample; never among the clouds of the job, and gone with the import.
 * Nothing hangs on it: where it cannot be made the import goes on without.
 */
export class FirstSight {
  private shown: { readonly id: number; readonly facts: CloudFacts } | undefined;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly context: Context,
    private readonly means: { readonly pool: TaskPool; readonly memory: MemoryPlan },
    private readonly file: FileInSight,
  ) {}

  /** Shows a sample of the file as it lies there; of a compressed one the beginnings of its chunks. */
  async begin(): Promise<void> {
    const { path, facts } = this.file;
    if (facts.las.pointCount >= LEAST_POINTS) await this.show(path, this.file.move);
  }

  /**
   * Once the records are sorted: shows an even sample in the place of the beginnings of chunks, and from then on what is stored of
   * the cloud itself, as its squares are done. Who zooms in sees every point there.
   */
  async fill(cloudId: number, las: LasFacts, { min, max, path }: SortedExtent): Promise<void> {
    if (!this.shown) return;
    if (las.chunks) await this.show(path, undefined);
    const { job, announce } = this.context;
    const at = coordinatesOf(las.quantisation);
    const { scale, offset } = las.quantisation;
    const own: CloudFacts = {
      ...this.shown.facts,
      bounds: { min: at(min), max: at(max) },
      quantisation: { scale: [...scale], offset: [...offset] },
      columns: las.columns,
    };
    await job.write((models) => showIncoming(models, cloudId, las.pointCount, own), { isPromised: false });
    this.timer = setInterval(() => announce(['clouds']), TELL_EVERY_MS);
  }

  /** Takes it away within the step that stores the cloud, so that there is never neither. */
  async removeIn(models: Models): Promise<void> {
    if (this.shown) await removeCloud(models, this.shown.id);
    this.shown = undefined;
  }

  stopTelling(): void {
    clearInterval(this.timer);
  }

  /** Takes it away where the import ends without a cloud; what cannot be removed now is when the job is next opened. */
  async forget(): Promise<void> {
    this.stopTelling();
    await this.context.job.write((models) => this.removeIn(models), { isPromised: false }).catch(() => undefined);
  }

  /** Builds a small cloud of a sample and shows it in the place of the one before. */
  private async show(recordsIn: string, move: Move | undefined): Promise<void> {
    const { job, signal, announce } = this.context;
    const { pool, memory } = this.means;
    const { path, fileName, name, format, facts, spillPath } = this.file;
    const sampled = `${spillPath}.sampled`;
    const moved = `${spillPath}.sample-moved`;
    const spill = `${spillPath}.sample-spill`;
    let id: number | undefined;
    try {
      const task = { path, fileName, target: sampled, points: SHOWN_POINTS };
      await pool.read('sampleLas', recordsIn === path ? task : { ...task, recordsIn }, { path, fileName, signal });
      const { las } = move
        ? await reproject(pool, { path: sampled, fileName, target: moved }, move, signal)
        : await openPath(pool, sampled, fileName, signal);
      const cloudId = (id = await job.write((models) => insertImportingCloud(models, name), { isPromised: false }));
      const blockPoints = memory.blockPoints(las.header.recordLength);
      const source = lasRecordSource(las, move ? moved : sampled, fileName, pool, signal, blockPoints);
      const built = await buildCloud({ job, pool, cloudId, source, spillPath: spill, memory }, signal, () => undefined);
      const stated = factsOf({ ...las, crs: facts.las.crs, records: facts.las.records }, facts.size, built, {
        fileName,
        format,
        warnings: [],
      });
      await job.write(
        async (models) => {
          await this.removeIn(models);
          await showIncoming(models, cloudId, facts.las.pointCount, stated);
        },
        { isPromised: false },
      );
      this.shown = { id: cloudId, facts: stated };
      announce(['clouds']);
    } catch (error) {
      const made = id;
      if (made !== undefined)
        await job.write((models) => removeCloud(models, made), { isPromised: false }).catch(() => undefined);
      if (error instanceof Cancelled) throw error;
    } finally {
      for (const file of [sampled, moved]) await rm(file, { force: true });
    }
  }
}
