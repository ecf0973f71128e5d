import { rm, stat } from 'node:fs/promises';
import type { CrsDescription } from '@pampero/core/geodesy';
import { Cancelled } from '@pampero/core/task';
import type { MemoryPlan } from '../../memory-plan.js';
import type { RunContext } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { insertImportingCloud, removeCloud, showIncoming } from '../../store/cloud-repository.js';
import type { Models } from '../../store/models.js';
import type { TaskInput, TaskPool } from '../../tasks/task-pool.js';
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

/** Smaller ones are in before anyone has looked, bytes. */
const LEAST_LOOSE_BYTES = 20_000_000;

/** A file on its way in. */
export interface FileInSight {
  readonly fileName: string;
  readonly name: string;
  /** Beside it files of its own are written, and removed. */
  readonly spillPath: string;
}

/** What is known of it once it lies there as LAS, or of an excerpt that does. */
export interface SightedFile {
  readonly path: string;
  readonly format: string;
  readonly facts: { readonly las: LasFacts; readonly size: number };
  readonly move: Move | undefined;
}

type Context = Pick<RunContext, 'job' | 'signal' | 'announce'>;

/**
 * Shows points from here and there in a file while the rest of it comes in: extent, density and wrong units are seen in the first
 * seconds. It is a small cloud built as any other, of a sample; never among the clouds of the job, and gone with the import.
 * Nothing hangs on it: where it cannot be made the import goes on without.
 */
export class FirstSight {
  private shown: { readonly id: number; readonly facts: CloudFacts } | undefined;
  private sighted: SightedFile | undefined;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly context: Context,
    private readonly means: { readonly pool: TaskPool; readonly memory: MemoryPlan },
    private readonly file: FileInSight,
  ) {}

  /** Shows stretches from here and there in a file that is not LAS, before it is turned into it. */
  async beginLoose(
    loose: Omit<TaskInput<'convertToLas'>, 'port' | 'target' | 'isExcerpt'>,
    moveOf: (crs: CrsDescription | undefined) => Move | undefined,
  ): Promise<void> {
    const { path, fileName } = loose;
    const { pool } = this.means;
    const { signal } = this.context;
    const { size } = await stat(path);
    if (size < LEAST_LOOSE_BYTES) return;
    const target = `${this.file.spillPath}.excerpt`;
    try {
      const guarded = { path, fileName, signal, onMessage: () => undefined };
      const { format, of } = await pool.read('convertToLas', { ...loose, target, isExcerpt: true }, guarded);
      if (of < LEAST_POINTS) return;
      const { las } = await openPath(pool, target, fileName, signal);
      const facts = { las: { ...las, pointCount: of }, size };
      await this.showFile(target, { path, format, facts, move: moveOf(las.crs) }, moveOf(las.crs));
    } catch (error) {
      // What is wrong with the file is said by the import itself.
      if (error instanceof Cancelled) throw error;
    } finally {
      await rm(target, { force: true });
    }
  }

  /** Shows a sample of the file as it lies there; of a compressed one the beginnings of its chunks. */
  async begin(sighted: SightedFile): Promise<void> {
    this.sighted = sighted;
    if (sighted.facts.las.pointCount >= LEAST_POINTS) await this.show(sighted, sighted.path, sighted.move);
  }

  /**
   * Once the records are sorted: shows an even sample in the place of the beginnings of chunks, and from then on what is stored of
   * the cloud itself, as its squares are done. Who zooms in sees every point there.
   */
  async fill(cloudId: number, las: LasFacts, { min, max, path }: SortedExtent): Promise<void> {
    if (!this.shown || !this.sighted) return;
    if (las.chunks) await this.show(this.sighted, path, undefined);
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

  /** Takes a sample of a file and shows it. */
  private async show(sighted: SightedFile, recordsIn: string, move: Move | undefined): Promise<void> {
    const { path } = sighted;
    const { fileName, spillPath } = this.file;
    const { signal } = this.context;
    const target = `${spillPath}.sampled`;
    try {
      const task = { path, fileName, target, points: SHOWN_POINTS };
      const whole = recordsIn === path ? task : { ...task, recordsIn };
      await this.means.pool.read('sampleLas', whole, { path, fileName, signal });
      await this.showFile(target, sighted, move);
    } catch (error) {
      if (error instanceof Cancelled) throw error;
    } finally {
      await rm(target, { force: true });
    }
  }

  /** Builds a small cloud of a small LAS file and shows it in the place of the one before. */
  private async showFile(sampled: string, { facts, format }: SightedFile, move: Move | undefined): Promise<void> {
    const { job, signal, announce } = this.context;
    const { pool, memory } = this.means;
    const { fileName, name, spillPath } = this.file;
    const moved = `${spillPath}.sample-moved`;
    let id: number | undefined;
    try {
      const { las } = move
        ? await reproject(pool, { path: sampled, fileName, target: moved }, move, signal)
        : await openPath(pool, sampled, fileName, signal);
      const cloudId = (id = await job.write((models) => insertImportingCloud(models, name), { isPromised: false }));
      const blockPoints = memory.blockPoints(las.header.recordLength);
      const source = lasRecordSource(las, move ? moved : sampled, fileName, pool, signal, blockPoints);
      const site = { job, pool, cloudId, source, spillPath: `${spillPath}.sample-spill`, memory };
      const built = await buildCloud(site, signal, () => undefined);
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
      throw error;
    } finally {
      await rm(moved, { force: true });
    }
  }
}
