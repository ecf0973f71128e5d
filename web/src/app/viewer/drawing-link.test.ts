// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { ViewerAnswer } from '../drawing/drawing-protocol';
import { storesOver } from '../stores.fixture';
import { DrawingLink } from './drawing-link';

/** A worker that keeps what it is told, and answers when the test says so. */
class PretendWorker {
  static last: PretendWorker;
  readonly told: Record<string, unknown>[] = [];
  isEnded = false;
  onmessage: ((event: { data: ViewerAnswer }) => void) | undefined;
  constructor() {
    PretendWorker.last = this;
  }
  postMessage(message: Record<string, unknown>): void {
    this.told.push(message);
  }
  terminate(): void {
    this.isEnded = true;
  }
  answers(data: unknown): void {
    this.onmessage!({ data: data as ViewerAnswer });
  }
}

let link: DrawingLink;
let worker: PretendWorker;

beforeEach(() => {
  vi.stubGlobal('Worker', PretendWorker);
  storesOver(() => undefined, [DrawingLink]);
  link = TestBed.inject(DrawingLink);
  worker = PretendWorker.last;
});
afterEach(() => vi.unstubAllGlobals());

describe('the page’s end of the drawing worker', () => {
  test('each question gets its own answer, in whatever order they come', async () => {
    const first = link.pick('plan', 10, 20);
    const second = link.ask('surfaceAt', { at: [1, 2], from: undefined });
    const [a, b] = worker.told as { serial: number; question: string; about: unknown }[];
    expect([a!.question, b!.question]).toEqual(['pick', 'surfaceAt']);
    expect(a!.about).toEqual({ view: 'plan', column: 10, row: 20 });
    worker.answers({ kind: 'answer', serial: b!.serial, answer: { elevation: 30 } });
    worker.answers({ kind: 'answer', serial: a!.serial, answer: { easting: 1 } });
    expect(await second).toEqual({ elevation: 30 });
    expect(await first).toEqual({ easting: 1 });
  });

  test('an answer that nobody waits for, or that comes twice, does no harm', async () => {
    const asked = link.pick('plan', 1, 1);
    const { serial } = worker.told[0] as { serial: number };
    worker.answers({ kind: 'answer', serial: 999, answer: undefined });
    worker.answers({ kind: 'answer', serial, answer: undefined });
    worker.answers({ kind: 'answer', serial, answer: { easting: 5 } });
    expect(await asked).toBeUndefined();
  });

  test('pictures, painters and troubles are told to those who listen', () => {
    const heard: unknown[] = [];
    link.pictures$.subscribe((picture) => heard.push(['picture', picture.serial]));
    link.painter$.subscribe((painter) => heard.push(['painter', painter.kind]));
    link.trouble$.subscribe((message) => heard.push(['trouble', message]));
    worker.answers({ kind: 'picture', serial: 4 });
    worker.answers({ kind: 'painter', name: 'processor' });
    worker.answers({ kind: 'trouble', message: 'The points cannot be fetched.' });
    expect(heard).toEqual([
      ['picture', 4],
      ['painter', 'painter'],
      ['trouble', 'The points cannot be fetched.'],
    ]);
  });

  test('pictures are numbered as they are asked for, apart from questions', () => {
    const draw = (): void => link.draw({ view: 'plan' } as never);
    draw();
    void link.pick('plan', 0, 0);
    draw();
    const serials = worker.told.map((message) => message['serial'] as number);
    expect(serials).toEqual([...serials].sort((p, q) => p - q));
    expect(new Set(serials).size).toBe(3);
  });

  test('ends its worker when it goes, and tells nobody anything more', () => {
    const ended: string[] = [];
    link.pictures$.subscribe({ complete: () => ended.push('pictures') });
    link.painter$.subscribe({ complete: () => ended.push('painter') });
    link.trouble$.subscribe({ complete: () => ended.push('trouble') });
    TestBed.resetTestingModule();
    expect(worker.isEnded).toBe(true);
    expect(ended.sort()).toEqual(['painter', 'pictures', 'trouble']);
  });
});
