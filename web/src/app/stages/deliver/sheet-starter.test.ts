// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import type { RunSheet } from '@pampero/contract';
import { concat, of, throwError, type Observable } from 'rxjs';
import { beforeEach, expect, test } from 'vitest';
import { FileSender } from '../../api/file-sender';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';
import { cloud, storesOver, workbench, type PretendServer } from '../../stores.fixture';
import { SheetStarter } from './sheet-starter';

let starter: SheetStarter;
let server: PretendServer;
let sending: string[];
let send: (file: File) => Observable<{ sent: number; uploadId?: string }>;
const sheetOf = (...kinds: string[]): RunSheet => ({ format: 'pampero-run-sheet', version: 1, name: 'Bank', notes: '', places: kinds.map((kind) => ({ key: kind, kind })), steps: [], outputs: [] }) as never; // prettier-ignore
const started = () => server.made('startSheetRun').map(({ given }) => [given.params!['jobId'], (given.body as { places: unknown }).places]); // prettier-ignore

beforeEach(() => {
  send = (file) => of({ sent: 0.5 }, { sent: 1, uploadId: `up-${file.name}` });
  ({ server } = storesOver(
    (id, given) => {
      if (id === 'createJob') return { id: `new-${(given.body as { name: string }).name}` };
      if (id === 'readJob') return workbench({ clouds: [cloud({ id: 31 }), cloud({ id: 32 })] });
      return id === 'startSheetRun' ? { id: 'run' } : undefined;
    },
    [JobStore, RunSheetStore, SheetStarter, { provide: FileSender, useValue: { send: (file: File) => send(file) } }],
  ));
  TestBed.inject(JobStore).jobId.set('job');
  TestBed.inject(JobStore).workbench.set(workbench({}));
  starter = TestBed.inject(SheetStarter);
  sending = [];
});
const file = (name: string): File => new File(['x'], name);
const follow = (run: Observable<unknown>): { error?: string } => {
  const seen: { error?: string } = {};
  run.subscribe({ error: (error: Error) => (seen.error = error.message) });
  return seen;
};

test('files are given for their places in their order, and how far they are is told', () => {
  const tell = starter.sending.set.bind(starter.sending);
  starter.sending.set = (text) => (sending.push(text), tell(text));
  follow(starter.here(sheetOf('files'), { flights: [file('a.laz'), file('b.laz')], control: [file('c.csv')] }, { limit: { value: '5 cm' } })); // prettier-ignore
  expect(started()).toEqual([
    ['job', {
      flights: { files: [{ uploadId: 'up-a.laz', fileName: 'a.laz' }, { uploadId: 'up-b.laz', fileName: 'b.laz' }] },
      control: { files: [{ uploadId: 'up-c.csv', fileName: 'c.csv' }] },
      limit: { value: '5 cm' },
    }],
  ]); // prettier-ignore
  expect(sending.slice(0, 2)).toEqual(['Sending a.laz: 50 %', 'Sending a.laz: 100 %']);
});

test('nothing is started where a file does not arrive, and no job is left behind', () => {
  send = (given) =>
    given.name === 'b.laz' ? throwError(() => new Error('The disk is full.')) : of({ sent: 1, uploadId: 'up' });
  const seen = follow(starter.inNewJob(sheetOf('files'), 'a.laz', { flights: [file('a.laz'), file('b.laz')] }, {}));
  expect(seen.error).toBe('The disk is full.');
  expect([started(), server.made('createJob').length]).toEqual([[], 0]);
});

test('a new job is named after the file without its endings, in this job’s system and unit', () => {
  follow(starter.inNewJob(sheetOf('files'), 'North bank.copc.laz', { flights: [file('North bank.copc.laz')] }, {}));
  expect(server.made('createJob')[0]!.given.body).toEqual({ name: 'North bank', unit: 'metre', epsg: 5347 });
  expect(started()[0]![0]).toBe('new-North bank');
});

test('a system of one’s own goes along as its definition', () => {
  TestBed.inject(JobStore).workbench.set(workbench({ job: { id: 'job', unit: 'metre', crs: { definition: '+proj=tmerc' } } as never })); // prettier-ignore
  follow(starter.inNewJob(sheetOf('files'), 'a.laz', {}, {}));
  expect(server.made('createJob')[0]!.given.body).toEqual({ name: 'a', unit: 'metre', definition: '+proj=tmerc' });
});

test('another job works on all clouds of its own; one that needs none is not even read', () => {
  follow(starter.inJob(sheetOf('clouds'), 'other', {}, (clouds) => ({ clouds: { clouds: [...clouds] } })));
  expect(started()).toEqual([['other', { clouds: { clouds: [31, 32] } }]]);
  follow(starter.inJob(sheetOf('value'), 'third', {}, (clouds) => ({ value: { value: String(clouds.length) } })));
  expect(server.made('readJob')).toHaveLength(1);
  expect(started().at(-1)).toEqual(['third', { value: { value: '0' } }]);
});

test('files are sent anew for each job, as each keeps its own', () => {
  const names: string[] = [];
  send = (given) => (names.push(given.name), of({ sent: 1, uploadId: `up-${names.length}` }));
  const each = (id: string): Observable<unknown> => starter.inJob(sheetOf('files'), id, { control: [file('c.csv')] }, () => ({})); // prettier-ignore
  follow(concat(each('one'), each('two')));
  expect(names).toEqual(['c.csv', 'c.csv']);
  expect(started().map(([, places]) => JSON.stringify(places).match(/up-\d/)![0])).toEqual(['up-1', 'up-2']);
});
