import { setTimeout as pause } from 'node:timers/promises';
import { join } from 'node:path';
import type { GivenPlaces, Job, RunSheet, SheetRun } from '@pampero/contract';
import { landOf, squaresAbout, withMargin } from '@pampero/core/squares';
import { checkCancelled } from '@pampero/core/task';
import type { JobLibrary } from '../jobs/job-library.js';
import type { SheetRunner } from '../run-sheets/sheet-runner.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { publishMarks, removeMarks } from '../passes/edge-marks.js';
import { publishSurfaceEdges } from './seams.js';
import { cloudPlaceOf, sheetForSquares, SQUARES_GATE } from './sheet-for-squares.js';
import type { DividedSite, SiteSquare } from './site-file.js';
import type { SquareBoard, SquareWork } from './square-board.js';

/** A square with its job and what became of its run. */
export interface RunSquare {
  readonly square: SiteSquare;
  readonly job: Job;
  readonly run: SheetRun;
}

export interface SiteRunOptions {
  readonly site: DividedSite;
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
  /** Told of each square that is done, here or elsewhere, more than once. */
  readonly onDone: (name: string) => void;
  /** Writes what a square made, once its run is done. */
  readonly write: (done: RunSquare) => Promise<void>;
}

/** What can be done next. */
type Next = { readonly square: SiteSquare; readonly is: 'classing' | 'finishing' } | 'wait' | 'over';

/** How long to wait where others work on what is needed, milliseconds. */
const LOOK_AGAIN_MS = 1_000;

/**
 * Runs a sheet on the squares of a site, alone or with other machines: on each until its points have their classes, then, as soon as
 * those about it have theirs, to the end. A square that stops holds up its neighbours and nobody else.
 */
export class SiteRun {
  private readonly sheet: RunSheet;
  private readonly chosen: ReadonlyMap<string, SiteSquare>;
  /** Squares that a lane of this machine is at, and those that it need not try again. */
  private readonly underWay = new Set<string>();
  private readonly tried = new Set<string>();
  private readonly jobs = new Map<string, Job>();
  private readonly failures: unknown[] = [];
  private choosing: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly parts: {
      readonly library: JobLibrary;
      readonly sheetRunner: SheetRunner;
      readonly pool: TaskPool;
      readonly board: SquareBoard;
    },
    private readonly options: SiteRunOptions,
  ) {
    this.sheet = sheetForSquares(options.sheet);
    const { site, without } = options;
    this.chosen = new Map(
      site.squares.filter(({ name }) => !without.includes(name)).map((square) => [square.name, square]),
    );
  }

  /** Returns when all squares are done, or nothing more can be done now. @throws Cancelled when the signal fires; what is done stays */
  async run(): Promise<void> {
    const lanes = Array.from({ length: this.options.atOnce }, () =>
      this.lane().catch((error: unknown) => {
        this.failures.push(error);
      }),
    );
    await Promise.all(lanes);
    if (this.failures.length > 0) throw this.failures[0];
    const { board } = this.parts;
    for (const [name, { by, phase }] of await board.look())
      if (by === board.machine && phase === 'classed' && this.chosen.has(name))
        await board.tell(name, 'stopped', { because: '', waitsAt: SQUARES_GATE, hasClasses: true });
  }

  private async lane(): Promise<void> {
    const { signal } = this.options;
    for (;;) {
      checkCancelled(signal);
      // What went wrong in one lane, such as a full disk, would in the others.
      if (this.failures.length > 0) return;
      const next = await this.next();
      if (next === 'over') return;
      if (next === 'wait') {
        await pause(LOOK_AGAIN_MS, undefined, { signal }).catch(() => undefined);
        continue;
      }
      const { square, is } = next;
      try {
        if (is === 'finishing') await this.finish(square);
        else await this.class(square);
      } finally {
        this.underWay.delete(square.name);
      }
    }
  }

  /** Chooses for one lane after another, so that no two are at one square. */
  private next(): Promise<Next> {
    const chosen = this.choosing.then(async () => {
      const board = await this.parts.board.look();
      for (const [name, { phase }] of board) if (phase === 'done') this.options.onDone(name);
      const next = this.choose(board);
      if (typeof next !== 'string') this.underWay.add(next.square.name);
      return next;
    });
    this.choosing = chosen.catch(() => undefined);
    return chosen;
  }

  private choose(board: ReadonlyMap<string, SquareWork>): Next {
    const { machine } = this.parts.board;
    const isReady = (square: SiteSquare): boolean =>
      this.about(square).every(({ name }) => board.get(name)?.hasClasses === true);
    const all = [...this.chosen.values()];
    const isFree = ({ name }: SiteSquare): boolean => !this.underWay.has(name);
    // What can be finished goes first: it gives room back and leaves.
    const ready = all.find(
      (square) => isFree(square) && board.get(square.name)?.by === machine && board.get(square.name)!.phase === 'classed' && isReady(square), // prettier-ignore
    );
    if (ready) return { square: ready, is: 'finishing' };
    const untouched = all.find((square) => {
      const work = board.get(square.name);
      if (!isFree(square)) return false;
      if (!work || work.isLeft) return true;
      // Its own of before this command: gone on with.
      return work.by === machine && work.phase !== 'done' && work.phase !== 'classed' && !this.tried.has(square.name);
    });
    if (untouched) return { square: untouched, is: 'classing' };
    const moves = all.some((square) => {
      const work = board.get(square.name);
      if (!isFree(square)) return true;
      if (!work || work.by === machine) return false;
      return work.phase === 'classing' || work.phase === 'finishing' || (work.phase === 'classed' && isReady(square));
    });
    return moves ? 'wait' : 'over';
  }

  /** Those about a square that are worked on. */
  private about(square: SiteSquare): SiteSquare[] {
    return squaresAbout(this.options.site, square).flatMap(({ name }) => this.chosen.get(name) ?? []);
  }

  private async class(square: SiteSquare): Promise<void> {
    const { board } = this.parts;
    const { name } = square;
    if (!(await board.take(name))) return;
    this.tried.add(name);
    const job = await this.jobOf(square);
    const run = await this.toRest(square, job, await this.begin(square, job));
    if (!hasClasses(run)) {
      await board.tell(name, 'stopped', whyNot(run));
      return;
    }
    const { site } = this.options;
    const reaches = this.about(square).map((other) => withMargin(this.landOf(other), site.margin));
    await publishMarks(this.parts, job, reaches, this.parts.library.edges, this.options.signal);
    await board.tell(name, 'classed', { hasClasses: true });
  }

  private async finish(square: SiteSquare): Promise<void> {
    const { board, library, sheetRunner } = this.parts;
    const { name } = square;
    if (!(await board.tell(name, 'finishing'))) return;
    const job = await this.jobOf(square);
    const begun = await this.begin(square, job);
    const reason = 'All squares about have their classes.';
    const atGate = waitsAt(begun) === SQUARES_GATE;
    const run = await this.toRest(square, job, atGate ? await sheetRunner.accept(job.id, begun.id, SQUARES_GATE, reason) : begun); // prettier-ignore
    if (run.state !== 'done') {
      await board.tell(name, 'stopped', whyNot(run));
      return;
    }
    await this.options.write({ square, job, run });
    await publishSurfaceEdges(library, job, library.edges);
    await board.tell(name, 'done');
    await this.clearAround(square);
  }

  /** Removes the edges that nobody will ask for any more. */
  private async clearAround(square: SiteSquare): Promise<void> {
    const board = await this.parts.board.look();
    const isDone = ({ name }: SiteSquare): boolean => board.get(name)?.phase === 'done';
    for (const each of [square, ...this.about(square)])
      if (isDone(each) && this.about(each).every(isDone)) await removeMarks(this.parts.library.edges, each.name);
  }

  /** A square's job here, made where it is not there yet. */
  private async jobOf(square: SiteSquare): Promise<Job> {
    const { library } = this.parts;
    const { site } = this.options;
    const { name } = square;
    if (this.jobs.size === 0) for (const job of await library.list()) this.jobs.set(job.name, job);
    const own = { land: this.landOf(square), side: site.side, margin: site.margin };
    const given = { name, square: own, ...(site.epsg !== undefined && { epsg: site.epsg }) };
    const job = this.jobs.get(name) ?? (await library.create(given));
    this.jobs.set(name, job);
    return job;
  }

  private landOf(square: SiteSquare): ReturnType<typeof landOf> {
    const { site } = this.options;
    const isThere = (column: number, row: number): boolean =>
      site.squares.some((other) => other.column === column && other.row === row);
    return landOf(site, square, isThere);
  }

  private async begin({ name, files }: SiteSquare, job: Job): Promise<SheetRun> {
    const { sheetRunner } = this.parts;
    const [latest] = await sheetRunner.list(job.id);
    if (!latest) {
      const own = files.map((file) => ({ folderPath: join(this.options.pieces, name, file).replace(/^\/+/, '') }));
      const places = { ...this.options.places, [cloudPlaceOf(this.options.sheet)]: { files: own } };
      return sheetRunner.start(job.id, this.sheet, places);
    }
    if (latest.state === 'done' || latest.state === 'waiting') return latest;
    return sheetRunner.goOn(job.id, latest.id);
  }

  /** Goes through gates that were accepted, until the run is done, stops, waits for its neighbours or for a person. */
  private async toRest(square: SiteSquare, job: Job, begun: SheetRun): Promise<SheetRun> {
    const { sheetRunner } = this.parts;
    let run = begun;
    for (;;) {
      run = await sheetRunner.watch(job.id, run.id, (now) => this.options.onSquare(square, now));
      const gate = waitsAt(run);
      const reason = gate === SQUARES_GATE || gate === undefined ? undefined : this.options.accepted.get(gate);
      if (reason === undefined) return run;
      run = await sheetRunner.accept(job.id, run.id, gate!, reason);
    }
  }
}

/** The gate that a run waits at. */
function waitsAt({ state, steps }: SheetRun): string | undefined {
  return state === 'waiting' ? steps.find((step) => step.state === 'waiting')?.key : undefined;
}

/** Whether a square's own points have their classes for good. */
function hasClasses(run: SheetRun): boolean {
  if (run.state === 'done' || waitsAt(run) === SQUARES_GATE) return true;
  return run.steps.some(({ key, state }) => key === SQUARES_GATE && state === 'accepted');
}

/** Why a run rests before its end, in words. */
function whyNot(run: SheetRun): { because: string; waitsAt?: string; hasClasses: boolean } {
  const gate = waitsAt(run);
  if (gate === undefined) return { because: run.because ?? '', hasClasses: hasClasses(run) };
  const { title, outcome } = run.steps.find(({ key }) => key === gate)!;
  return { because: `“${title}”. ${outcome}`, waitsAt: gate, hasClasses: hasClasses(run) };
}
