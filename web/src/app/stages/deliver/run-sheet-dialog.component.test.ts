// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../../screen.fixture';
import type { RunSheet } from '@pampero/contract';
import { from } from 'rxjs';
import { beforeEach, describe, expect, test } from 'vitest';
import { FileSender } from '../../api/file-sender';
import { RunSheetStore } from '../../state/run-sheet-store';
import { cloud, workbench, type PretendServer } from '../../stores.fixture';
import { RunSheetDialogComponent } from './run-sheet-dialog.component';

const work = (key: string, operation: string, file?: string): RunSheet['steps'][number] =>
  ({ kind: 'work', key, operation, isOff: false, isProposed: false, parameters: {}, ...(file && { file }) }) as never;
const place = (key: string, kind: string, isOptional = false): RunSheet['places'][number] =>
  ({ key, label: key.toUpperCase(), help: `Give ${key}.`, kind, isOptional }) as never;
const sheetOf = (places: RunSheet['places'], steps: RunSheet['steps']): RunSheet => ({
  format: 'pampero-run-sheet', version: 1, name: 'Bank', notes: 'For flat land.', places, steps, outputs: [],
}); // prettier-ignore

let screen: Screen<RunSheetDialogComponent>;
let server: PretendServer;
let said: string[];
let dialog: PretendDialog<boolean>;
let sent: string[];

async function open(sheet: RunSheet, jobs: object[] = []): Promise<void> {
  dialog = new PretendDialog<boolean>();
  sent = [];
  const sender = {
    send: (file: File) => {
      sent.push(file.name);
      return from([{ sent: 0.5 }, { sent: 1, uploadId: `up-${file.name}` }]);
    },
  };
  ({ server, said } = openJob(
    { clouds: [cloud({ id: 1, name: 'East' }), cloud({ id: 2, name: 'West' })] },
    {
      answers: (id, given) => {
        if (id === 'listJobs') return jobs;
        if (id === 'createJob') return { id: `job-${(given.body as { name: string }).name}` };
        if (id === 'readJob') return workbench({ clouds: [cloud({ id: 70 + Number(String(given.params!['jobId']).slice(-1)) })] }); // prettier-ignore
        return undefined;
      },
      providers: [RunSheetStore, { provide: FileSender, useValue: sender }, ...dialog.over(sheet)],
    },
  ));
  screen = await Screen.of(RunSheetDialogComponent);
}
const started = () => server.made('startSheetRun').map(({ given }) => [given.params!['jobId'], (given.body as { places: unknown }).places]); // prettier-ignore
const give = async (key: string, ...names: string[]): Promise<void> => {
  const input = screen.one<HTMLInputElement>(`place-${key}`);
  Object.defineProperty(input, 'files', { value: names.map((name) => new File(['x'], name)), configurable: true });
  Object.defineProperty(input, 'value', { value: '', writable: true, configurable: true });
  input.dispatchEvent(new Event('change'));
  await screen.settled();
};
const canRun = (): boolean => !screen.one<HTMLButtonElement>('run-start').disabled;

describe('a run sheet that reads files', () => {
  beforeEach(() => open(sheetOf([place('flights', 'files'), place('control', 'files', true), place('limit', 'value')], [work('in', 'import-cloud', 'flights')]))); // prettier-ignore

  test('waits for what it needs, and not for what is optional', async () => {
    expect(screen.text).toContain('For flat land.');
    expect(screen.text).toContain('CONTROL, if there are any');
    expect(canRun()).toBe(false);
    await give('flights', 'a.laz');
    expect(canRun()).toBe(false);
    await screen.type('place-limit', '   ');
    expect(canRun()).toBe(false);
    await screen.type('place-limit', ' 5 cm ');
    expect(canRun()).toBe(true);
  });

  test('many files are told in few words', async () => {
    await give('flights', 'a.laz', 'b.laz', 'c.laz');
    expect(screen.texts('.chosen')[0]).toBe('a.laz, b.laz, c.laz');
    await give('flights', 'a.laz', 'b.laz', 'c.laz', 'd.laz', 'e.laz');
    expect(screen.texts('.chosen')[0]).toBe('a.laz, b.laz and 3 more');
  });

  test('here: files are sent one after the other and given for their places', async () => {
    await give('flights', 'a.laz', 'b.laz');
    await give('control', 'points.csv');
    await screen.type('place-limit', ' 5 cm ');
    await screen.press('Run');
    expect(sent).toEqual(['a.laz', 'b.laz', 'points.csv']);
    expect(started()).toEqual([
      [
        'job',
        {
          flights: { files: [{ uploadId: 'up-a.laz', fileName: 'a.laz' }, { uploadId: 'up-b.laz', fileName: 'b.laz' }] },
          control: { files: [{ uploadId: 'up-points.csv', fileName: 'points.csv' }] },
          limit: { value: '5 cm' },
        },
      ],
    ]); // prettier-ignore
    server.answer('startSheetRun', { id: 1 });
    expect(dialog.result).toBe(true);
  });

  test('in a new job for each cloud, named after its file, in the system of this one', async () => {
    await give('flights', 'north.copc.laz', 'south.las');
    await screen.type('place-limit', '1');
    await screen.tick(screen.one('target-each'));
    await screen.press('Run');
    expect(server.made('createJob').map(({ given }) => given.body)).toEqual([
      { name: 'north', unit: 'metre', epsg: 5347 },
    ]);
    server.answer('startSheetRun', { id: 1 });
    expect(server.made('createJob')[1]!.given.body).toMatchObject({ name: 'south' });
    server.answer('startSheetRun', { id: 1 });
    expect(started().map(([job]) => job)).toEqual(['job-north', 'job-south']);
    expect(said.at(-1)).toBe('Running in 2 new jobs; they are on the Jobs page.');
  });

  test('a refusal is told, the dialog stays with what was given', async () => {
    await give('flights', 'a.laz');
    await screen.type('place-limit', 'much');
    await screen.press('Run');
    server.refuse('startSheetRun', '“much” is no limit.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('“much” is no limit.');
    expect([dialog.isClosed, canRun()]).toEqual([false, true]);
    expect(screen.texts('.chosen')[0]).toBe('a.laz');
  });
});

describe('a run sheet that works on clouds', () => {
  const jobs = [
    { id: 'job', name: 'Job', cloudCount: 2 },
    { id: 'job8', name: 'Eight', cloudCount: 1 },
    { id: 'job9', name: 'Nine', cloudCount: 0 },
  ];
  beforeEach(() => open(sheetOf([place('clouds', 'clouds')], [work('ground', 'find-ground')]), jobs));

  test('begins with all clouds of the job; without any it does not run', async () => {
    const [east, west] = screen.all<HTMLInputElement>('.clouds input');
    await screen.tick(east!);
    await screen.press('Run');
    expect(started()).toEqual([['job', { clouds: { clouds: [2] } }]]);
    await screen.tick(west!);
    expect(canRun()).toBe(false);
  });

  test('runs in several jobs with the clouds of each; one without clouds cannot be chosen', async () => {
    await screen.tick(screen.one('target-jobs'));
    expect(screen.one<HTMLInputElement>('job-job9').disabled).toBe(true);
    expect(screen.text).toContain('all clouds of each job');
    await screen.tick(screen.one('job-job'));
    expect(canRun()).toBe(false);
    await screen.tick(screen.one('job-job8'));
    await screen.press('Run');
    expect(started()).toEqual([['job8', { clouds: { clouds: [78] } }]]);
    server.answer('startSheetRun', { id: 1 });
    expect(said.at(-1)).toBe('Running in 1 job; each has its run in its Deliver.');
  });

  test('with one job there is nothing to choose', async () => {
    await open(sheetOf([place('clouds', 'clouds')], [work('ground', 'find-ground')]), jobs.slice(0, 1));
    expect(screen.has('target-jobs')).toBe(false);
  });
});

test('jobs that cannot be listed do not keep a sheet from running here', async () => {
  await open(sheetOf([], [work('space', 'give-back-space')]));
  expect(canRun()).toBe(true);
});
