import { join } from 'node:path';
import type { GivenPlaces, Job, RunSheet, SheetRun } from '@pampero/contract';
import { landOf } from '@pampero/core/squares';
import { checkCancelled } from '@pampero/core/task';
import type { JobLibrary } from '../jobs/job-library.js';
import { mapWide } from '../passes/node-groups.js';
import type { SheetRunner } from '../run-sheets/sheet-runner.js';
import { cloudPlaceOf, sheetForSquares, SQUARES_GATE } from './sheet-for-squares.js';
import type { SiteFile, SiteSquare } from './site-file.js';

/** A square with its job and what became of its run. */
export interface RunSquare {
  readonly square: SiteSquare;
  readonly job: Job;
  readonly run: SheetRun;
}

export interface SiteRunOptions {
  readonly site: SiteFile & { readonly squares: readonly SiteSquare[] };
  readonly sheet: RunSheet;
  /** Names of squares that are not worked on now; those beside them do not wait for them. */
  readonly without: readonly string[];
  /** For the sheet's other places. */
  readonly places: GivenPlaces;
  /** Has a folder of each square's name with its files. */
  readonly pieces: string;
  /** Squares that are worked on at the same time. */
  readonly atOnce: number;
  /** Gates that are gone through, each with its reason. */
  readonly accepted: ReadonlyMap<string, string>;
  readonly signal: AbortSignal;
  /** Told of every square now and then. */
  readonly onSquare: (square: SiteSquare, run: SheetRun) => void;
}

/**
 * Runs a sheet on all squares of a site: first on each until its points have their classes, then, when all have come so far, to the
 * end. A square that stops holds up its neighbours and nobody else.
 */
export class SiteRun {
  private readonly sheet: RunSheet;

  constructor(
    private readonly library: JobLibrary,
    private readonly runner: SheetRunner,
    private readonly options: SiteRunOptions,
  ) {
    this.sheet = sheetForSquares(options.sheet);
  }

  /** @throws Cancelled when the signal fires; what is done stays */
  async run(): Promise<RunSquare[]> {
    const { site, atOnce, without, signal } = this.options;
    const jobs = await this.jobs();
    const chosen = site.squares.filter(({ name }) => !without.includes(name));
    const classed = await mapWide(chosen, atOnce, async (square) => {
      const job = jobs.get(square.name)!;
      checkCancelled(signal);
      return { square, job, run: await this.toRest(square, job, await this.begin(square, job)) };
    });
    const readyOnes = new Map(classed.map((each) => [keyOf(each.square), each]));
    return mapWide(classed, atOnce, async (each) => {
      const { square, job, run } = each;
      checkCancelled(signal);
      if (waitsAt(run) !== SQUARES_GATE) return each;
      const behind = neighbours(square).flatMap((key) => readyOnes.get(key) ?? []).filter(({ run: other }) => !hasClasses(other)); // prettier-ignore
      if (behind.length > 0) return each;
      const reason = 'All squares about have their classes.';
      const accepted = await this.runner.accept(job.id, run.id, SQUARES_GATE, reason);
      return { square, job, run: await this.toRest(square, job, accepted) };
    });
  }

  /** A job for each square, made where it is not there yet. */
  private async jobs(): Promise<ReadonlyMap<string, Job>> {
    const { site } = this.options;
    const there = new Map((await this.library.list()).map((job) => [job.name, job]));
    const jobs = new Map<string, Job>();
    const here = new Set(site.squares.map(keyOf));
    for (const square of site.squares) {
      const { name } = square;
      const land = landOf(site, square, (column, row) => here.has(keyOf({ column, row })));
      const own = { land, side: site.side, margin: site.margin };
      const given = { name, square: own, ...(site.epsg !== undefined && { epsg: site.epsg }) };
      jobs.set(name, there.get(name) ?? (await this.library.create(given)));
    }
    return jobs;
  }

  private async begin({ name, files }: SiteSquare, job: Job): Promise<SheetRun> {
    const [latest] = await this.runner.list(job.id);
    if (!latest) {
      const own = files.map((file) => ({ folderPath: join(this.options.pieces, name, file).replace(/^\/+/, '') }));
      const places = { ...this.options.places, [cloudPlaceOf(this.options.sheet)]: { files: own } };
      return this.runner.start(job.id, this.sheet, places);
    }
    if (latest.state === 'done' || latest.state === 'waiting') return latest;
    return this.runner.goOn(job.id, latest.id);
  }

  /** Goes through gates that were accepted, until the run is done, stops, waits for its neighbours or for a person. */
  private async toRest(square: SiteSquare, job: Job, begun: SheetRun): Promise<SheetRun> {
    let run = begun;
    for (;;) {
      run = await this.runner.watch(job.id, run.id, (now) => this.options.onSquare(square, now));
      const gate = waitsAt(run);
      const reason = gate === SQUARES_GATE || gate === undefined ? undefined : this.options.accepted.get(gate);
      if (reason === undefined) return run;
      run = await this.runner.accept(job.id, run.id, gate!, reason);
    }
  }
}

/** The gate that a run waits at. */
export function waitsAt({ state, steps }: SheetRun): string | undefined {
  return state === 'waiting' ? steps.find((step) => step.state === 'waiting')?.key : undefined;
}

/** Whether a square's own points have their classes for good. */
function hasClasses(run: SheetRun): boolean {
  if (waitsAt(run) === SQUARES_GATE) return true;
  return run.steps.some(({ key, state }) => key === SQUARES_GATE && state === 'accepted');
}

const keyOf = ({ column, row }: Pick<SiteSquare, 'column' | 'row'>): string => `${column} ${row}`;

/** The eight about a square, by column and row. */
function neighbours({ column, row }: SiteSquare): string[] {
  const about: string[] = [];
  for (const r of [row - 1, row, row + 1])
    for (const c of [column - 1, column, column + 1])
      if (r !== row || c !== column) about.push(keyOf({ column: c, row: r }));
  return about;
}
