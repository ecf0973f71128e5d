import { randomBytes } from 'node:crypto';
import { link, mkdir, open, readdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { z } from 'zod';
import { writeWhole } from '../files/write-whole.js';

/**
 * How far a square is: its points get their classes; it has told its edges and waits for the squares about; it is finished now; it is
 * done; or it stopped, and whoever stopped goes on with it.
 */
const squarePhases = ['classing', 'classed', 'finishing', 'done', 'stopped'] as const;
export type SquarePhase = (typeof squarePhases)[number];

const entrySchema = z.object({
  /** The machine that works on it. */
  by: z.string(),
  phase: z.enum(squarePhases),
  /** Grows while the machine lives. */
  beat: z.int(),
  /** Whether it has told its edges. */
  hasClasses: z.boolean(),
  /** Why it stopped, and the gate at which it waits, if it does. */
  because: z.string().optional(),
  waitsAt: z.string().optional(),
});
type Entry = z.infer<typeof entrySchema>;
/** A square as the machines that share a site see it. */
export interface SquareWork extends Entry {
  /** Nothing was heard of its machine for so long that others may take it. */
  readonly isLeft: boolean;
}

export interface BoardTimes {
  /** How often a machine says that it lives. */
  readonly beatMs: number;
  /** How long it may be silent. */
  readonly silentMs: number;
}
const ENDING = '.json';
const LIVE: readonly SquarePhase[] = ['classing', 'classed', 'finishing'];

/**
 * Says which machine works on which square of a site: a small file a square, in the folder that the machines share. A square is taken by
 * making its file, which one alone can; clocks of machines are never compared. Where two should ever work on one square all the same, as
 * after a machine slept, both come to the same files.
 */
export class SquareBoard {
  private readonly mine = new Map<string, Entry>();
  private readonly heard = new Map<string, { readonly sign: string; readonly at: number }>();
  private readonly beating: NodeJS.Timeout;
  /** Squares that are done, which nobody changes any more. */
  private readonly done = new Map<string, Entry>();
  private telling: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly folder: string,
    readonly machine: string,
    private readonly times: BoardTimes,
  ) {
    this.beating = setInterval(() => void this.beat().catch(() => undefined), times.beatMs);
    this.beating.unref();
  }

  static async at(folder: string, machine: string, times: BoardTimes): Promise<SquareBoard> {
    await mkdir(folder, { recursive: true });
    const board = new SquareBoard(folder, machine, times);
    for (const [name, { isLeft: _, ...entry }] of await board.look())
      if (entry.by === machine) board.mine.set(name, entry);
    return board;
  }

  /** Whether somebody else says with this machine's name that it lives: two commands would work in one folder of jobs. */
  async isTaken(): Promise<boolean> {
    const signs = async (): Promise<string> =>
      JSON.stringify([...(await this.look())].filter(([, work]) => work.by === this.machine && LIVE.includes(work.phase))); // prettier-ignore
    clearInterval(this.beating);
    const before = await signs();
    if (before === '[]') return false;
    await pause(2.5 * this.times.beatMs);
    return (await signs()) !== before;
  }

  /** All squares that somebody has taken, by name. */
  async look(): Promise<ReadonlyMap<string, SquareWork>> {
    const names = (await readdir(this.folder)).filter((name) => name.endsWith(ENDING)).sort();
    const found = new Map<string, SquareWork>();
    for (const fileName of names) {
      const name = fileName.slice(0, -ENDING.length);
      const entry = this.done.get(name) ?? (await this.read(name));
      if (entry?.phase === 'done') this.done.set(name, entry);
      if (entry) found.set(name, { ...entry, isLeft: this.isLeft(name, entry) });
    }
    return found;
  }

  /** Takes a square that nobody has, that is this machine's, or whose machine is silent. @returns whether it is this machine's now */
  async take(name: string): Promise<boolean> {
    const there = await this.read(name);
    const own: Entry = { by: this.machine, phase: 'classing', beat: 0, hasClasses: false };
    if (there?.by === this.machine) {
      this.mine.set(name, { ...there, phase: 'classing' });
      return this.tell(name, 'classing');
    }
    if (there) {
      if (!this.isLeft(name, there)) return false;
      // Moved aside first: of several that find it left, one alone can.
      const aside = `${this.path(name)}.${randomBytes(4).toString('hex')}.left`;
      if (!(await succeeds(rename(this.path(name), aside)))) return false;
      // Another may have taken it between the look and the move: then it is put back.
      const moved = await this.readAt(aside);
      const isIt = moved !== undefined && signOf(moved) === signOf(there);
      if (!isIt) await link(aside, this.path(name)).catch(() => undefined);
      await rm(aside, { force: true });
      if (!isIt) return false;
    }
    const made = await open(this.path(name), 'wx').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'EEXIST') return undefined;
      throw error;
    });
    if (!made) return false;
    try {
      await made.writeFile(JSON.stringify(own));
    } finally {
      await made.close();
    }
    this.mine.set(name, own);
    return true;
  }

  /**
   * Says how far one of this machine's squares is.
   * @returns false where the square is another machine's by now, which took it since this one was silent
   */
  tell(
    name: string,
    phase: SquarePhase,
    more: Pick<Entry, 'because' | 'waitsAt'> & { readonly hasClasses?: boolean } = {},
  ): Promise<boolean> {
    return this.oneByOne(async () => {
      const before = this.mine.get(name);
      const there = await this.read(name);
      if (!before || there?.by !== this.machine) {
        this.mine.delete(name);
        return false;
      }
      const { by, beat, hasClasses } = before;
      const entry: Entry = { ...{ by, phase, beat: beat + 1, hasClasses }, ...more };
      await writeWhole(this.path(name), JSON.stringify(entry));
      this.mine.set(name, entry);
      return true;
    });
  }

  /** Gives a square back: others may take it. */
  giveBack(name: string): Promise<void> {
    return this.oneByOne(async () => {
      if ((await this.read(name))?.by === this.machine) await rm(this.path(name), { force: true });
      this.mine.delete(name);
    });
  }

  /** Gives back all that this machine is at. */
  async letGo(): Promise<void> {
    for (const [name, { phase }] of [...this.mine]) if (LIVE.includes(phase)) await this.giveBack(name);
  }

  /** Says no more that this machine lives; returns when nothing is being written. */
  async close(): Promise<void> {
    clearInterval(this.beating);
    await this.telling;
  }

  private beat(): Promise<void> {
    return this.oneByOne(async () => {
      for (const [name, entry] of this.mine) {
        if (!LIVE.includes(entry.phase)) continue;
        if ((await this.read(name))?.by !== this.machine) this.mine.delete(name);
        else {
          const next = { ...entry, beat: entry.beat + 1 };
          await writeWhole(this.path(name), JSON.stringify(next));
          this.mine.set(name, next);
        }
      }
    });
  }

  /** What writes goes one after another: a beat must not put back what was told meanwhile. */
  private oneByOne<T>(act: () => Promise<T>): Promise<T> {
    const done = this.telling.then(act);
    this.telling = done.catch(() => undefined);
    return done;
  }

  private isLeft(name: string, entry: Entry): boolean {
    if (entry.by === this.machine || !LIVE.includes(entry.phase)) return false;
    const sign = signOf(entry);
    const before = this.heard.get(name);
    if (before?.sign === sign) return performance.now() - before.at > this.times.silentMs;
    this.heard.set(name, { sign, at: performance.now() });
    return false;
  }

  /** Undefined where nobody has taken it. What is being written this moment is somebody's. */
  private read(name: string): Promise<Entry | undefined> {
    return this.readAt(this.path(name));
  }

  private async readAt(path: string): Promise<Entry | undefined> {
    const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return undefined;
      throw error;
    });
    if (text === undefined) return undefined;
    try {
      return entrySchema.parse(JSON.parse(text));
    } catch {
      return { by: '', phase: 'classing', beat: 0, hasClasses: false };
    }
  }

  private path(name: string): string {
    return join(this.folder, name + ENDING);
  }
}

const signOf = ({ by, phase, beat }: Entry): string => `${by} ${phase} ${beat}`;
const succeeds = (act: Promise<unknown>): Promise<boolean> => act.then(() => true).catch(() => false);
