import { FormatError } from '@pampero/core/formats';

/** A reading that says nothing for so long is taken to be stuck, and longer for a large file. */
const [LEAST_SECONDS, SECONDS_A_MEGABYTE] = [30, 0.5];
const WITH_OTHERS = 3;
const LOOK_EVERY_MS = 200;

/**
 * Watches the reading of a file that may be damaged, or made to do harm: ends it where it takes too long without a sign of
 * progress, or where the process grows by more than it may.
 */
export class ReadingGuard {
  private readonly abort = new AbortController();
  private readonly timer: NodeJS.Timeout;
  private readonly seconds: number;
  private readonly restingBytes = process.memoryUsage.rss();
  private heardAt = performance.now();
  private broken: FormatError | undefined;

  constructor(
    private readonly file: { readonly fileName: string; readonly bytes: number },
    private readonly megabytes: number,
    /** Whether other work in the process may be what takes the memory; then the reading is ended much later. */
    private readonly isOtherAtWork: () => boolean,
    secondsAtLeast = LEAST_SECONDS,
  ) {
    this.seconds = Math.round(secondsAtLeast + (file.bytes / 1e6) * SECONDS_A_MEGABYTE);
    this.timer = setInterval(() => this.look(), LOOK_EVERY_MS);
    this.timer.unref();
  }

  get signal(): AbortSignal {
    return this.abort.signal;
  }

  /** The reading goes on. */
  heard(): void {
    this.heardAt = performance.now();
  }

  stop(): void {
    clearInterval(this.timer);
  }

  /** Whatever a reading ended with, as something that can be told. */
  explain(error: unknown): unknown {
    if (this.broken) return this.broken;
    const { code, message } = error as { code?: string; message?: string };
    if (
      code === 'ERR_WORKER_OUT_OF_MEMORY' ||
      /allocation failed|out of memory|Invalid (typed )?array/i.test(message ?? '')
    )
      return this.tooMuch();
    return error;
  }

  private look(): void {
    if (performance.now() - this.heardAt > this.seconds * 1000)
      this.end(this.refused(`was being read for ${this.seconds} s without an end`));
    else if (process.memoryUsage.rss() - this.restingBytes > this.allowedBytes()) this.end(this.tooMuch());
  }

  private allowedBytes(): number {
    return this.megabytes * 1e6 * (this.isOtherAtWork() ? WITH_OTHERS : 1);
  }

  private end(error: FormatError): void {
    this.broken ??= error;
    this.stop();
    this.abort.abort();
  }

  private tooMuch(): FormatError {
    return this.refused(`took more than ${this.megabytes} MB of memory to read`);
  }

  private refused(what: string): FormatError {
    return new FormatError('reading-stopped', {
      what: `${this.file.fileName} ${what}, and reading was stopped.`,
      fix: 'It may be damaged: copy or export it again. If it is whole, give the server more memory with PAMPERO_MEMORY, or split the file.',
    });
  }
}
