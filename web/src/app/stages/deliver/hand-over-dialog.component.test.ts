// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test } from 'vitest';
import { catchSaved, type SavedFile } from '../../saved.fixture';
import { RunSheetStore } from '../../state/run-sheet-store';
import { cloud, surface, type PretendServer } from '../../stores.fixture';
import { HandOverDialogComponent } from './hand-over-dialog.component';
import { ReportDraft } from './report-draft';

let screen: Screen<HandOverDialogComponent>;
let server: PretendServer;
let saved: readonly SavedFile[];
let dialog: PretendDialog;
const current = signal<unknown>(undefined);
const boxes = (): string[] =>
  screen
    .all<HTMLInputElement>('input[type="checkbox"]')
    .filter(({ checked }) => checked)
    .map(({ dataset }) => dataset['testid']!.replace('hand-over-', ''));
const asked = () =>
  server.made('handOver').at(-1)!.given.body as { items: Record<string, unknown>[]; pattern: string; note: string };

beforeEach(async () => {
  saved = catchSaved();
  current.set(undefined);
  dialog = new PretendDialog();
  ({ server } = openJob(
    { clouds: [cloud({ id: 3, name: 'East' })], products: [surface(1), surface(2, { isStale: true, staleBecause: 'East has other classes now.' })] },
    { providers: [ReportDraft, { provide: RunSheetStore, useValue: { current } }, ...dialog.over()] },
  )); // prettier-ignore
  screen = await Screen.of(HandOverDialogComponent);
});

describe('a package to hand over', () => {
  test('begins with what a drawing office reads of each product', () => {
    expect(boxes()).toEqual(expect.arrayContaining(['product-1-landxml', 'product-2-landxml']));
    expect(boxes().some((key) => key.startsWith('cloud'))).toBe(false);
    expect(screen.text).toContain(`${boxes().length} files, README, metadata and SHA-256 sums`);
  });

  test('suits another: a map office gets the points too, a client the page', async () => {
    await screen.press(screen.one('suit-gis'));
    expect(boxes()).toContain('cloud-3-laz');
    await screen.press(screen.one('suit-client'));
    expect(boxes()).toContain('view');
    await screen.press('nothing');
    expect(boxes()).toEqual([]);
    expect(screen.one<HTMLButtonElement>('hand-over-go').disabled).toBe(true);
  });

  test('says what is stale, and of what', () => {
    expect(screen.texts('.stale')).toEqual(['Stale. East has other classes now.']);
  });

  test('what the run sheet made is offered once there is a run', async () => {
    expect(screen.texts('button')).not.toContain('what the run sheet made');
    current.set({ outputs: [{ kind: 'product', id: 1, format: 'dxf' }, { kind: 'cloud', id: 3, format: 'las' }] }); // prettier-ignore
    await screen.settled();
    await screen.press('what the run sheet made');
    expect(boxes()).toEqual(['product-1-dxf', 'cloud-3-las']);
  });

  test('asks for just what is chosen, named as typed, and saves the zip under the job’s name', async () => {
    await screen.press('nothing');
    await screen.tick(screen.one('hand-over-product-2-dxf'));
    await screen.tick(screen.one('hand-over-report-html'));
    await screen.type('[aria-label="Name pattern"]', '{date} {name}');
    await screen.type('textarea', 'Heights are above the old datum.');
    await screen.press(screen.one('hand-over-go'));
    expect(screen.one<HTMLButtonElement>('hand-over-go').disabled).toBe(true);
    const { items, pattern, note } = asked();
    expect(items).toEqual([
      { kind: 'product', id: 2, format: 'dxf' },
      { kind: 'report', report: expect.objectContaining({ format: 'html' }) },
    ]);
    expect([pattern, note]).toEqual(['{date} {name}', 'Heights are above the old datum.']);
    const zip = new ArrayBuffer(4);
    server.answer('handOver', zip);
    expect(saved).toEqual([{ bytes: zip, name: 'Job.zip' }]);
    expect(dialog.isClosed).toBe(true);
  });

  test('what the server refuses is told, and the choice stays', async () => {
    const before = boxes();
    await screen.press(screen.one('hand-over-go'));
    server.refuse('handOver', 'A name pattern holds {job}, {name}.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('A name pattern holds {job}, {name}.');
    expect([boxes(), dialog.isClosed]).toEqual([before, false]);
    expect(screen.one<HTMLButtonElement>('hand-over-go').disabled).toBe(false);
  });
});

test('an empty job has only its report to hand over', async () => {
  openJob({}, { providers: [ReportDraft, { provide: RunSheetStore, useValue: { current } }, ...dialog.over()] });
  const empty = await Screen.of(HandOverDialogComponent);
  expect(empty.texts('.label').some((label) => label.startsWith('Report'))).toBe(true);
  expect(empty.text).not.toContain('Point cloud');
});
