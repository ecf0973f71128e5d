import type { PointBatch } from '@pampero/core/cloud';

/** Batches that come one by one for a writer that asks for them: who brings one waits until it is written. */
export class BatchFeed {
  private next: { readonly batch: PointBatch; readonly taken: () => void } | undefined;
  private wake: (() => void) | undefined;
  private isClosed = false;

  /** Resolves when the batch is written. One at a time. */
  push(batch: PointBatch): Promise<void> {
    return new Promise((taken) => {
      this.next = { batch, taken };
      this.wake?.();
    });
  }

  close(): void {
    this.isClosed = true;
    this.wake?.();
  }

  async *batches(): AsyncGenerator<PointBatch> {
    for (;;) {
      const now = this.next;
      if (now) {
        this.next = undefined;
        yield now.batch;
        now.taken();
      } else if (this.isClosed) return;
      else await new Promise<void>((wake) => (this.wake = wake));
    }
  }
}
