// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import type { KeptSheet, RunSheet, SheetRun } from '@pampero/contract';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { ApiError } from '../api/api-client';
import { storesOver, type PretendServer } from '../stores.fixture';
import { JobStore } from './job-store';
import { RunSheetStore } from './run-sheet-store';

const sheet = { name: 'Every month', steps: [] } as unknown as RunSheet;
const kept = { id: 's1', sheet, isOurs: false } as unknown as KeptSheet;
const sheetRun = (id: number, state: SheetRun['state'], progress = 0): SheetRun =>
  ({ id, name: 'Every month', state, steps: [], startedAt: '2026-01-01T00:00:00.000Z', progress, outputs: [] }) as SheetRun; // prettier-ignore
const refusal = (detail: string): ApiError => new ApiError({ type: '', title: '', status: 409, code: 'no', detail });

let runs: SheetRun[];
let server: PretendServer;
let said: string[];
let store: RunSheetStore;
let job: JobStore;
const asked = (): number => server.made('listSheetRuns').length;

beforeEach(() => {
  vi.useFakeTimers();
  runs = [];
  ({ server, said } = storesOver(
    (id) => (id === 'listSheetRuns' ? runs : id === 'listRunSheets' ? { sheets: [kept], unreadable: [] } : undefined),
    [JobStore, RunSheetStore],
  ));
  job = TestBed.inject(JobStore);
  store = TestBed.inject(RunSheetStore);
});
afterEach(() => void vi.useRealTimers());

describe('runs of sheets', () => {
  beforeEach(() => job.jobId.set('job'));

  test('are not asked for without a job', () => {
    job.jobId.set('');
    job.changed$.next(undefined);
    vi.advanceTimersByTime(2000);
    expect(asked()).toBe(0);
  });

  test('are read when the job tells of them or of its history, several news as one; of nothing else', () => {
    runs = [sheetRun(2, 'waiting'), sheetRun(1, 'done')];
    job.changed$.next(['sheet-runs']);
    job.changed$.next(['history']);
    job.changed$.next(['pins']);
    vi.advanceTimersByTime(40);
    expect(asked()).toBe(1);
    expect(store.current()?.id).toBe(2);
    expect(store.isWaiting()).toBe(true);
    job.changed$.next(['pins']);
    vi.advanceTimersByTime(2000);
    expect(asked()).toBe(1);
  });

  test('are asked for while one goes on, and no more once it ended', () => {
    runs = [sheetRun(1, 'running', 0.1)];
    job.changed$.next(undefined);
    vi.advanceTimersByTime(40);
    runs = [sheetRun(1, 'running', 0.6)];
    vi.advanceTimersByTime(800);
    expect(store.current()?.progress).toBe(0.6);
    runs = [sheetRun(1, 'done', 1)];
    vi.advanceTimersByTime(800);
    const whenDone = asked();
    vi.advanceTimersByTime(5000);
    expect([store.current()?.state, asked()]).toEqual(['done', whenDone]);
  });

  test('a gate is accepted with its reason, and the run is shown as it is then before it is asked for', () => {
    runs = [sheetRun(5, 'waiting'), sheetRun(4, 'done')];
    job.changed$.next(undefined);
    vi.advanceTimersByTime(40);
    store.accept(store.current()!, 'accuracy-holds', 'One point lies in a hedge.');
    const { given, answer } = server.made('acceptSheetStep')[0]!;
    expect(given).toEqual({
      params: { jobId: 'job', sheetRunId: 5 },
      body: { step: 'accuracy-holds', reason: 'One point lies in a hedge.' },
    });
    answer.next(sheetRun(5, 'running', 0.5));
    expect(store.runs().map(({ id, state }) => `${id} ${state}`)).toEqual(['5 running', '4 done']);
  });

  test('what is refused is said, and the run stays as it was', () => {
    runs = [sheetRun(5, 'stopped')];
    job.changed$.next(undefined);
    vi.advanceTimersByTime(40);
    store.goOn(store.current()!);
    server.made('goOnWithSheetRun')[0]!.answer.error(refusal('Another run goes on in this job.'));
    store.cancel(store.current()!);
    server.made('cancelSheetRun')[0]!.answer.error(refusal('It has ended.'));
    expect(said).toEqual(['Another run goes on in this job.', 'It has ended.']);
    expect(store.current()?.state).toBe('stopped');
  });

  test('one that starts is asked for at once, in this job or another', () => {
    store.start(sheet, {}).subscribe();
    store.start(sheet, {}, 'next').subscribe();
    const started = server.made('startSheetRun');
    expect(started.map(({ given }) => given.params)).toEqual([{ jobId: 'job' }, { jobId: 'next' }]);
    started[0]!.answer.next(sheetRun(1, 'running'));
    vi.advanceTimersByTime(40);
    expect(asked()).toBe(1);
  });
});

describe('sheets that are kept', () => {
  test('are read with those that cannot be', () => {
    store.load();
    expect(store.sheets()).toEqual([kept]);
    expect(store.unreadable()).toEqual([]);
  });

  test('a new one is kept, one that has a place takes it; then all are read again', () => {
    store.keep(sheet as never).subscribe();
    store.keep(sheet as never, 's1').subscribe();
    expect(server.made('keepRunSheet')).toHaveLength(1);
    expect(server.made('changeRunSheet')[0]!.given.params).toEqual({ sheetId: 's1' });
    server.made('changeRunSheet')[0]!.answer.next(kept);
    expect(store.sheets()).toEqual([kept]);
  });

  test('a fault of one arrives where it was kept from', () => {
    let fault: unknown;
    store.keep(sheet as never).subscribe({ error: (error: unknown) => (fault = error) });
    server.made('keepRunSheet')[0]!.answer.error(refusal('Step 3 has no operation.'));
    expect((fault as ApiError).problem.detail).toBe('Step 3 has no operation.');
    expect(said).toEqual([]);
  });

  test('one that is removed is said to be, with its name; one that cannot be stays', () => {
    store.remove(kept);
    server.made('removeRunSheet')[0]!.answer.next(undefined);
    expect(said).toEqual(['Removed: Every month']);
    store.remove(kept);
    server.made('removeRunSheet')[1]!.answer.error(refusal('It came with Pampero and stays.'));
    expect(said.at(-1)).toBe('It came with Pampero and stays.');
  });
});
