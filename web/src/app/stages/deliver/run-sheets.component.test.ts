// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { runSheetSchema, type KeptSheet } from '@pampero/contract';
import { MatDialog } from '@angular/material/dialog';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { catchSaved, type SavedFile } from '../../saved.fixture';
import { RunSheetStore } from '../../state/run-sheet-store';
import type { PretendServer } from '../../stores.fixture';
import { RunSheetsComponent } from './run-sheets.component';

const sheet = (name: string, gates = 0) =>
  runSheetSchema.parse({
    format: 'pampero-run-sheet',
    version: 1,
    name,
    steps: [
      { kind: 'work', key: 'ground', operation: 'find-ground' },
      ...Array.from({ length: gates }, (_, k) => ({ kind: 'gate', key: `g${k}`, gate: { rule: 'nothing-stale' } })),
    ],
  });
const kept = (id: string, isShipped: boolean, gates = 0): KeptSheet => ({ id, isShipped, sheet: sheet(`Sheet ${id}`, gates) }) as never; // prettier-ignore
const open = vi.fn();
let screen: Screen<RunSheetsComponent>;
let server: PretendServer;
let saved: readonly SavedFile[];
let said: string[];

beforeEach(async () => {
  vi.clearAllMocks();
  saved = catchSaved();
  ({ server, said } = openJob({}, { providers: [RunSheetStore, { provide: MatDialog, useValue: { open } }] }));
  screen = await Screen.of(RunSheetsComponent);
  server.answer('listRunSheets', {
    sheets: [kept('a', true, 1), kept('b', false)],
    unreadable: [{ fileName: 'x.json', what: '“steps” is missing.' }],
  });
  await screen.settled();
});
const opened = () => (open.mock.calls.at(-1)![1] as { data: unknown }).data;
const give = async (name: string, text: string): Promise<void> => {
  const input = screen.one<HTMLInputElement>('sheet-file');
  Object.defineProperty(input, 'files', { value: [Object.assign(new File([text], name), { text: () => Promise.resolve(text) })], configurable: true }); // prettier-ignore
  Object.defineProperty(input, 'value', { value: '', writable: true, configurable: true });
  input.dispatchEvent(new Event('change'));
  await screen.settled();
};

describe('run sheets that are kept', () => {
  test('are told with their steps and gates, and whether they come with the program', () => {
    expect(screen.texts('.export small')).toEqual(['1 step, 1 gate, comes with Pampero', '1 step']);
    expect(screen.text).toContain('x.json cannot be read: “steps” is missing.');
  });

  test('one that ships is copied and not removed; one’s own is changed in its place', async () => {
    expect(screen.all('[aria-label="Remove the run sheet"]')).toHaveLength(1);
    await screen.press(screen.one('edit-sheet-a'));
    expect(opened()).toMatchObject({ sheet: { name: 'Sheet a, own' } });
    expect(opened()).not.toHaveProperty('id');
    await screen.press(screen.one('edit-sheet-b'));
    expect(opened()).toMatchObject({ sheet: { name: 'Sheet b' }, id: 'b' });
  });

  test('are run, made anew, saved and removed', async () => {
    await screen.press(screen.one('run-sheet-b'));
    expect(opened()).toMatchObject({ name: 'Sheet b' });
    await screen.press(screen.one('new-sheet'));
    expect(opened()).toMatchObject({ sheet: { name: 'New run sheet', steps: [] } });
    await screen.press(screen.all('[aria-label="Save as a file"]')[1]!);
    expect(saved.map(({ name }) => name)).toEqual(['b.json']);
    await screen.press('Remove the run sheet');
    server.answer('removeRunSheet', {});
    expect(server.made('removeRunSheet')[0]!.given.params).toEqual({ sheetId: 'b' });
    expect(said.at(-1)).toBe('Removed: Sheet b');
  });

  test('one from elsewhere is kept, or refused with what is wrong with it', async () => {
    await give('mine.json', JSON.stringify(sheet('Mine')));
    server.answer('keepRunSheet', kept('mine', false));
    expect(said.at(-1)).toBe('Kept: Sheet mine');
    await give('mine.json', '{"format": 7}');
    server.refuse('keepRunSheet', '“format” has to be "pampero-run-sheet".');
    expect(said.at(-1)).toBe('mine.json: “format” has to be "pampero-run-sheet".');
    await give('picture.json', 'not json');
    expect(said.at(-1)).toBe('picture.json is not JSON.');
    expect(server.made('keepRunSheet')).toHaveLength(2);
  });
});
