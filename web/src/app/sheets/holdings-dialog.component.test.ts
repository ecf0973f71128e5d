// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { beforeEach, describe, expect, test } from 'vitest';
import type { PretendServer } from '../stores.fixture';
import { HoldingsDialogComponent } from './holdings-dialog.component';

let screen: Screen<HoldingsDialogComponent>;
let server: PretendServer;
let job: ReturnType<typeof openJob>['job'];
const things = [
  { kind: 'surface', id: 4, name: 'Ground', bytes: 2_000_000, usedBy: ['Contours 0.5', 'Stockpile'] },
  { kind: 'cloud', id: 1, name: 'East', bytes: 90_000_000, usedBy: ['Ground'] },
  { kind: 'contours', id: 5, name: 'Contours 0.5', bytes: 300_000, usedBy: [] },
];
const open = async (holdings: unknown): Promise<void> => {
  ({ server, job } = openJob({}));
  screen = await Screen.of(HoldingsDialogComponent);
  if (holdings) server.answer('readHoldings', holdings);
  await screen.settled();
};
const started = (): unknown[] =>
  server.made('startOperation').map(({ given }) => [given.params!['operation'], given.body]);

describe('what the job holds', () => {
  beforeEach(() => open({ things, undo: { bytes: 5_000_000 } }));

  test('the largest first, with what it is used for', () => {
    expect(screen.texts('td.name')).toEqual(['East', 'Ground', 'Contours 0.5']);
    expect(screen.texts('td.soft')).toEqual(['Ground', 'Contours 0.5; Stockpile', '–']);
    expect(screen.one<HTMLButtonElement>('remove-chosen').disabled).toBe(true);
  });

  test('tells what would stay without what it was made from, but for what goes with it', async () => {
    await screen.tick(screen.one('choose-product-4'));
    expect(screen.one('stranded').textContent).toContain('Contours 0.5; Stockpile');
    await screen.tick(screen.one('choose-product-5'));
    expect(screen.one('stranded').textContent).toContain('Made from what you remove: Stockpile.');
    expect(screen.one('remove-chosen').textContent.trim()).toBe('Remove 2 things');
    await screen.press(screen.one('remove-chosen'));
    expect(started()).toEqual([['remove-from-job', { clouds: [], control: [], products: [4, 5] }]]);
    expect(screen.one<HTMLButtonElement>('remove-chosen').disabled).toBe(true);
  });

  test('deletes for good only after it was asked twice', async () => {
    await screen.press(screen.one('give-back'));
    expect(screen.text).toContain('Nothing done until now can be undone afterwards');
    await screen.press('Keep them');
    expect([screen.has('give-back-sure'), started()]).toEqual([false, []]);
    await screen.press(screen.one('give-back'));
    await screen.press(screen.one('give-back-sure'));
    expect(started()).toEqual([['give-back-space', {}]]);
    expect(screen.has('give-back-sure')).toBe(false);
  });

  test('is read again when the job has changed', async () => {
    job.changed$.next(undefined);
    server.answer('readHoldings', { things: things.slice(1), undo: { bytes: 0 } });
    await screen.settled();
    expect(screen.texts('td.name')).toEqual(['East', 'Contours 0.5']);
    expect(screen.has('kept-for-undo')).toBe(false);
  });
});

test('an empty job, one whose sizes are still read, and one that cannot be read are told apart', async () => {
  await open(undefined);
  expect(screen.text).toContain('Reading sizes …');
  server.answer('readHoldings', { things: [], undo: { bytes: 0 } });
  await screen.settled();
  expect(screen.text).toContain('The job holds no cloud and no product.');
  await open(undefined);
  server.refuse('readHoldings', 'The job is being removed.');
  await screen.settled();
  expect(screen.one('[role="alert"]').textContent).toBe('The job is being removed.');
});
