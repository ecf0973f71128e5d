import '@angular/compiler';
import type { Type } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { EnvironmentProviders, Provider } from '@angular/core';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { JobStore } from './state/job-store';
import { LayerStore } from './state/layer-store';
import { LookStore } from './state/look-store';
import { ViewStore } from './state/view-store';
import { run, storesOver, turn, workbench, type Answers, type PretendServer } from './stores.fixture';

// The page without a browser does not scroll.
Element.prototype.scrollTo ??= () => undefined;

/** A component on a page without a browser, used as a person would use it: by what is read and pressed. */
export class Screen<T> {
  readonly element: HTMLElement;

  private constructor(private readonly fixture: ComponentFixture<T>) {
    this.element = fixture.nativeElement as HTMLElement;
  }

  static async of<T>(component: Type<T>, inputs: Readonly<Record<string, unknown>> = {}): Promise<Screen<T>> {
    const fixture = TestBed.createComponent(component);
    for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
    const screen = new Screen(fixture);
    await screen.settled();
    return screen;
  }

  get component(): T {
    return this.fixture.componentInstance;
  }

  async set(name: string, value: unknown): Promise<void> {
    this.fixture.componentRef.setInput(name, value);
    await this.settled();
  }

  async settled(): Promise<void> {
    this.fixture.detectChanges();
    await turn(0);
    this.fixture.detectChanges();
  }

  /** All that is read, with single spaces. */
  get text(): string {
    return words(this.element);
  }

  texts(selector: string): string[] {
    return this.all(selector).map(words);
  }

  all<E extends HTMLElement = HTMLElement>(selector: string): E[] {
    return [...this.element.querySelectorAll<E>(selector)];
  }

  /** What has a name for tests, or is the only one that a selector finds. */
  one<E extends HTMLElement = HTMLElement>(name: string): E {
    const found = this.all<E>(/^[\w-]+$/.test(name) ? `[data-testid="${name}"], ${name}` : name);
    if (found.length !== 1) throw new Error(`${found.length} of “${name}” in: ${this.text}`);
    return found[0]!;
  }

  has(name: string): boolean {
    return this.all(`[data-testid="${name}"]`).length > 0;
  }

  /** A button by what it says. */
  button(says: string): HTMLButtonElement {
    const found = this.all<HTMLButtonElement>('button, a').filter(
      (button) => words(button) === says || button.getAttribute('aria-label') === says,
    );
    if (found.length !== 1)
      throw new Error(`${found.length} buttons say “${says}”, of: ${this.texts('button, a').join(' | ')}`);
    return found[0]!;
  }

  async press(what: string | HTMLElement): Promise<void> {
    (typeof what === 'string' ? this.button(what) : what).click();
    await this.settled();
  }

  async type(name: string | HTMLInputElement, value: string): Promise<void> {
    const input = typeof name === 'string' ? this.one<HTMLInputElement>(name) : name;
    input.value = value;
    input.dispatchEvent(new Event('input', { bubbles: true }));
    input.dispatchEvent(new Event('change', { bubbles: true }));
    await this.settled();
  }

  async choose(name: string | HTMLSelectElement, value: string): Promise<void> {
    const select = typeof name === 'string' ? this.one<HTMLSelectElement>(name) : name;
    select.value = value;
    select.dispatchEvent(new Event('change', { bubbles: true }));
    await this.settled();
  }

  async tick(box: HTMLInputElement): Promise<void> {
    box.click();
    await this.settled();
  }

  async key(name: string | HTMLElement, key: string, more: KeyboardEventInit = {}): Promise<void> {
    const target = typeof name === 'string' ? this.one(name) : name;
    target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }));
    await this.settled();
  }
}

/** What a dialog was closed with; `isClosed` tells whether it was. */
export class PretendDialog<R = unknown> {
  isClosed = false;
  result: R | undefined;
  close(result?: R): void {
    this.isClosed = true;
    this.result = result;
  }

  /** What stands for the dialog about a component. */
  over(data?: unknown): Provider[] {
    return [
      { provide: MatDialogRef, useValue: this },
      { provide: MAT_DIALOG_DATA, useValue: data },
    ];
  }
}

/** An open job with the stores that a workbench has; operations that are started are taken. */
export function openJob(
  bench: Partial<Parameters<typeof workbench>[0]> = {},
  {
    answers,
    providers = [],
    before,
  }: { answers?: Answers; providers?: readonly (Provider | EnvironmentProviders)[]; before?: () => void } = {},
): { server: PretendServer; said: string[]; job: JobStore } {
  const over = storesOver(
    (id, given) => answers?.(id, given) ?? (id === 'startOperation' ? run({ id: 'r1' }) : undefined),
    [JobStore, LayerStore, LookStore, ViewStore, ...providers],
  );
  before?.();
  const job = TestBed.inject(JobStore);
  job.jobId.set('job');
  job.workbench.set(workbench(bench));
  return { ...over, job };
}

const words = (of: Element): string => (of.textContent ?? '').replace(/\s+/g, ' ').trim();
