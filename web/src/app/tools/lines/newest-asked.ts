/** One question at a time: while one is being answered the newest waits, and those before it are let go. */
export class NewestAsked<Ask> {
  private isAsking = false;
  private next: Ask | undefined;

  constructor(private readonly answer: (ask: Ask) => Promise<void>) {}

  async ask(ask: Ask): Promise<void> {
    this.next = ask;
    if (this.isAsking) return;
    this.isAsking = true;
    try {
      while (this.next !== undefined) {
        const now = this.next;
        this.next = undefined;
        await this.answer(now);
      }
    } finally {
      this.isAsking = false;
    }
  }
}
