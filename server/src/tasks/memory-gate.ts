import { Cancelled } from '@pampero/core/task';

/** Gives a task's memory back; a second call does nothing. */
export type GiveBack = () => void;

interface Waiting {
  readonly megabytes: number;
  readonly enter: () => void;
}

/**
 * Lets tasks that need much memory in, one after another as they come, while there is room for them all. One that needs more than
 * there is goes in alone: its work is done all the same, with as little beside it as can be.
 */
export class MemoryGate {
  private inUse = 0;
  private readonly waiting: Waiting[] = [];

  constructor(private readonly megabytes: number) {}

  /** @throws Cancelled when the signal fires while it waits */
  async enter(megabytes: number, signal: AbortSignal): Promise<GiveBack> {
    if (signal.aborted) throw new Cancelled();
    if (this.mustWait(megabytes)) await this.turn(megabytes, signal);
    else this.inUse += megabytes;
    let isInside = true;
    return () => {
      if (!isInside) return;
      isInside = false;
      this.inUse -= megabytes;
      this.letIn();
    };
  }

  /** Whether one that comes now has to wait. */
  mustWait(megabytes: number): boolean {
    // Whoever waits goes first, or a large one would wait for ever.
    return this.waiting.length > 0 || !this.fits(megabytes);
  }

  private fits(megabytes: number): boolean {
    return this.inUse === 0 || this.inUse + megabytes <= this.megabytes;
  }

  private turn(megabytes: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      const leave = (): void => {
        this.waiting.splice(this.waiting.indexOf(waiting), 1);
        reject(new Cancelled());
        // It may have been the one that held up the others.
        this.letIn();
      };
      const waiting: Waiting = {
        megabytes,
        enter: () => {
          signal.removeEventListener('abort', leave);
          resolve();
        },
      };
      this.waiting.push(waiting);
      signal.addEventListener('abort', leave, { once: true });
    });
  }

  private letIn(): void {
    for (let next = this.waiting[0]; next && this.fits(next.megabytes); next = this.waiting[0]) {
      this.waiting.shift();
      this.inUse += next.megabytes;
      next.enter();
    }
  }
}
