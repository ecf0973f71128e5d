import { formatTimeLeft } from '@pampero/contract';

/** Tells how far things are: a line that is written over on a terminal, lines of JSON for a script. */
export class Telling {
  private width = 0;
  private last = '';

  constructor(private readonly isJson: boolean) {}

  /** Something that stays to be read. */
  line(text: string, facts: Readonly<Record<string, unknown>> = {}): void {
    if (this.isJson) this.json({ text, ...facts });
    else {
      this.clear();
      process.stdout.write(`${text}\n`);
    }
  }

  /** How far something is; each takes the place of the one before. */
  progress(share: number, step: string, secondsLeft?: number): void {
    const percent = Math.floor(share * 100);
    const key = `${percent} ${step}`;
    if (key === this.last) return;
    this.last = key;
    if (this.isJson)
      this.json({
        progress: Number(share.toFixed(3)),
        step,
        ...(secondsLeft !== undefined && { secondsLeft: Math.round(secondsLeft) }),
      });
    else if (process.stdout.isTTY) {
      const left = secondsLeft === undefined ? '' : `, ${formatTimeLeft(secondsLeft)} left`;
      const text = `${String(percent).padStart(3)} %  ${step}${left}`.slice(0, (process.stdout.columns || 80) - 1);
      process.stdout.write(`\r${text.padEnd(this.width)}`);
      this.width = text.length;
    }
  }

  fault(text: string, facts: Readonly<Record<string, unknown>> = {}): void {
    if (this.isJson) this.json({ error: text, ...facts });
    else {
      this.clear();
      process.stderr.write(`${text}\n`);
    }
  }

  private json(facts: Readonly<Record<string, unknown>>): void {
    process.stdout.write(`${JSON.stringify(facts)}\n`);
  }

  private clear(): void {
    if (this.width > 0 && process.stdout.isTTY) process.stdout.write(`\r${' '.repeat(this.width)}\r`);
    this.width = 0;
  }
}
