import './test-bed.fixture';
import { provideZonelessChangeDetection, type EnvironmentProviders, type Provider } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatIconRegistry } from '@angular/material/icon';
import { MatSnackBar } from '@angular/material/snack-bar';
import type { Cloud, HistoryEntry, JobEvent, Product, Run, Workbench } from '@pampero/contract';
import { NEVER, of, Subject, type Observable } from 'rxjs';
import { ApiClient, ApiError } from './api/api-client';

/** A call that a store made of the server, to be answered by the test. */
export interface Call {
  readonly id: string;
  readonly given: {
    readonly params?: Record<string, unknown>;
    readonly query?: Record<string, unknown>;
    readonly body?: unknown;
  };
  readonly answer: Subject<unknown>;
}

/** Answers a call at once, or leaves it to the test with undefined. */
export type Answers = (id: string, given: Call['given']) => unknown;

/** A server made up by the test: it keeps what was asked and tells of changes. */
export class PretendServer {
  readonly calls: Call[] = [];
  readonly events = new Subject<JobEvent | undefined>();

  constructor(private readonly answers: Answers) {}

  call(id: string, given: Call['given']): Observable<unknown> {
    const answer = new Subject<unknown>();
    this.calls.push({ id, given, answer });
    const now = this.answers(id, given);
    return now === undefined ? answer : of(now);
  }

  /** A file that is asked for, answered like any call. */
  file(id: string, given: Call['given']): Observable<unknown> {
    return this.call(id, given);
  }

  /** Answers the newest call of a kind, or refuses it in words. */
  answer(id: string, value: unknown): void {
    const { answer } = this.made(id).at(-1)!;
    answer.next(value);
    answer.complete();
  }

  refuse(id: string, detail: string, errors?: readonly { pointer: string; detail: string }[]): void {
    const problem = { type: 'about:blank', title: detail, status: 422, code: 'wrong', detail, errors };
    this.made(id)
      .at(-1)!
      .answer.error(new ApiError(problem as never));
  }

  watchJob(): Observable<JobEvent | undefined> {
    return this.events;
  }

  made(id: string): Call[] {
    return this.calls.filter((call) => call.id === id);
  }
}

/** Services over a server made up by the test, without a screen; messages are kept. */
export function storesOver(
  answers: Answers,
  providers: readonly (Provider | EnvironmentProviders)[] = [],
): { server: PretendServer; said: string[] } {
  TestBed.resetTestingModule();
  const server = new PretendServer(answers);
  const said: string[] = [];
  TestBed.configureTestingModule({
    providers: [
      provideZonelessChangeDetection(),
      { provide: ApiClient, useValue: server },
      {
        provide: MatSnackBar,
        useValue: { open: (message: string) => (said.push(message), { onAction: () => NEVER }) },
      },
      // Icons are drawn by the browser's tests; here any will do.
      { provide: MatIconRegistry, useValue: { getNamedSvgIcon: () => NEVER, getDefaultFontSetClass: () => [] } },
      ...providers,
    ],
  });
  return { server, said };
}

export const cloud = (facts: Partial<Cloud> & { readonly id: number }): Cloud => ({
  name: `strip ${facts.id}`,
  pointCount: 1000,
  bounds: { min: [0, 0, 10], max: [100, 100, 20] },
  quantisation: { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] },
  columns: { gpsTime: true, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 },
  hasConfidence: false,
  hasAccuracy: false,
  classCounts: { '1': 1000 },
  intensityRange: [10, 900],
  source: {
    fileName: 'strip.las',
    fileBytes: 1,
    format: 'LAS 1.4, points 6',
    generatingSoftware: '',
    elevationRange: [10, 20],
    strips: [1],
  },
  warnings: [],
  revision: 1,
  classRevision: 1,
  isStandardGpsTime: true,
  colours: 0,
  positions: { shown: 0, sets: [] },
  ...facts,
});

export const run = (facts: Partial<Run> & { readonly id: string }): Run =>
  ({
    operation: 'find-ground',
    title: 'Find ground',
    state: 'running',
    progress: 0,
    step: '',
    elapsedMs: 0,
    ...facts,
  }) as Run;

export const entry = (facts: Partial<HistoryEntry> & { readonly id: number }): HistoryEntry =>
  ({
    stage: 'classify',
    operation: 'find-ground',
    title: 'Find ground',
    parameters: {},
    outcome: '',
    figures: [],
    state: 'done',
    startedAt: '2026-01-01T00:00:00.000Z',
    durationMs: 1,
    ...facts,
  }) as HistoryEntry;

export const workbench = (facts: Partial<Workbench>): Workbench =>
  ({
    job: { id: 'job', name: 'Job', unit: 'metre', crs: { epsg: 5347 } },
    clouds: [],
    products: [],
    runs: [],
    classes: [],
    pins: [],
    controlCount: 0,
    history: { entries: [], undoes: null, redoes: null },
    ...facts,
  }) as unknown as Workbench;

export const surface = (id: number, facts: Partial<Product> = {}): Product =>
  ({
    id,
    seriesId: id,
    kind: 'surface',
    name: `Ground ${id}`,
    operation: 'build-surface',
    parameters: {},
    inputs: [],
    isStale: false,
    madeAt: '2026-01-01T00:00:00.000Z',
    facts: {
      facets: 10,
      points: 8,
      lowest: 1,
      highest: 2,
      areaInPlan: 3,
      areaOnSlope: 4,
      longestEdge: 5,
      facetsLeftOut: 0,
    },
    ...facts,
  }) as unknown as Product;

/** Lets what waits for the next turn happen. */
export const turn = (milliseconds = 40): Promise<void> => new Promise((resolve) => setTimeout(resolve, milliseconds));
