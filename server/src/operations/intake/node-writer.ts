import type { JobFile } from '../../store/job-file.js';
import { insertNode, type NewNode } from '../../store/node-repository.js';

/** Stores nodes as they come, several in a transaction; the first failure stops all. */
export class NodeWriter {
  private waiting: { id: number; node: NewNode; done: () => void }[] = [];
  private writing: Promise<void> | undefined;
  private failure: unknown;

  constructor(
    private readonly job: JobFile,
    private readonly cloudId: number,
  ) {}

  write(id: number, node: NewNode, done: () => void): void {
    // After a failure nothing is stored any more, and who waits for a turn gets it at once.
    if (this.failure !== undefined) {
      done();
      return;
    }
    this.waiting.push({ id, node, done });
    this.writing ??= this.drain();
  }

  async finished(): Promise<void> {
    await this.writing;
    if (this.failure !== undefined) throw this.failure as Error;
  }

  private async drain(): Promise<void> {
    while (this.waiting.length > 0) {
      const batch = this.waiting;
      this.waiting = [];
      if (this.failure === undefined) {
        await this.job
          .write(
            async (models) => {
              for (const { id, node } of batch) await insertNode(models, this.cloudId, id, node);
            },
            { isPromised: false },
          )
          .catch((error: unknown) => (this.failure = error));
      }
      for (const { done } of batch) done();
    }
    this.writing = undefined;
  }
}
