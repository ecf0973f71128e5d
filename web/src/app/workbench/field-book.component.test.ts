// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { Component, output } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { RunSheetStore } from '../state/run-sheet-store';
import { entry, type PretendServer } from '../stores.fixture';
import { FieldBookComponent } from './field-book.component';
import { JobGraphComponent } from './job-graph.component';

@Component({ selector: 'pam-job-graph', template: '' })
class PretendGraphComponent {
  readonly picked = output<number>();
}

let screen: Screen<FieldBookComponent>;
let server: PretendServer;
let said: string[];
let name: string | undefined;
const entries = [
  entry({ id: 4, stage: 'terrain', operation: 'build-surface', title: 'Build surface', outcome: 'cancelled by you', state: 'cancelled' }),
  entry({ id: 3, stage: 'clean', operation: 'set-class', title: 'Set class', outcome: '12 points to 6 Building' }),
  entry({
    id: 2, stage: 'classify', operation: 'find-ground', title: 'Find ground', outcome: '900 of 1000 points are ground',
    parameters: { cell: 1, clouds: [1] }, durationMs: 61_000,
    figures: [{ label: 'Ground', value: 900, quantity: 'count' }, { label: 'Highest', value: 31.25, quantity: 'length' }],
  }),
  entry({ id: 1, stage: 'intake', operation: 'import-cloud', title: 'Import a cloud', outcome: '1000 points', state: 'dropped' }),
] as never[]; // prettier-ignore

beforeEach(async () => {
  name = 'As done here';
  ({ server, said } = openJob(
    { history: { entries, undoes: 3, redoes: null } },
    {
      providers: [
        RunSheetStore,
        { provide: MatDialog, useValue: { open: () => ({ afterClosed: () => of(name) }) } },
      ],
      before: () =>
        TestBed.overrideComponent(FieldBookComponent, {
          remove: { imports: [JobGraphComponent] },
          add: { imports: [PretendGraphComponent] },
        }),
    },
  )); // prettier-ignore
  screen = await Screen.of(FieldBookComponent);
});
const details = (): Record<string, string> =>
  Object.fromEntries(screen.all('dl > div').map((row) => [...row.children].map(({ textContent }) => textContent.replace(/[\u202f\u2009]/g, ' ').trim()))) as never; // prettier-ignore
const choose = (id: number): Promise<void> => screen.press(screen.all('.entry')[4 - id]!);

describe('the field book', () => {
  test('has every step, the newest first, with what became of it', () => {
    expect(screen.texts('.entry .title')).toEqual(['Build surface', 'Set class', 'Find ground', 'Import a cloud']);
    expect(screen.texts('.outcome b')).toEqual(['cancelled', 'undone, not redoable']);
    expect(screen.texts('.entry').at(2)).toContain('900 of 1000 points are ground');
  });

  test('shows parameters and figures of the step that is chosen, in words and units', async () => {
    expect(details()['Stage']).toBe('Terrain');
    await choose(2);
    expect(details()).toMatchObject({ Stage: 'Classify', Ground: '900', Highest: '31.250 m' });
    expect(Object.values(details())).toContain('1 m');
    expect(screen.one('[aria-selected="true"]').textContent).toContain('Find ground');
  });

  test('undoes, and cannot redo what there is not', async () => {
    expect(screen.button('Redo').disabled).toBe(true);
    const undo = vi.spyOn(screen.component['store'], 'undo');
    await screen.press('Undo');
    expect(undo).toHaveBeenCalledOnce();
  });

  test('a run sheet begins with the steps that are done and not by hand; any can be taken in or out', async () => {
    await screen.press(screen.one('pick-steps'));
    expect(screen.one('make-sheet').textContent).toContain('Make a run sheet of 1');
    await choose(3);
    expect(screen.one('make-sheet').textContent).toContain('of 2');
    await choose(2);
    await screen.press(screen.one('make-sheet'));
    expect(server.made('sheetFromHistory').at(-1)!.given.body).toEqual({ name: 'As done here', entries: [3] });
    server.answer('sheetFromHistory', { leftOut: [{ id: 3, because: 'What was selected by hand has no place.' }] });
    expect(said.at(-1)).toBe('Step 3 is left out. What was selected by hand has no place.');
    expect(screen.has('make-sheet')).toBe(true);
  });

  test('once kept it says where it is', async () => {
    await screen.press(screen.one('pick-steps'));
    await screen.press(screen.one('make-sheet'));
    server.answer('sheetFromHistory', { sheet: { name: 'As done here' }, leftOut: [] });
    server.answer('keepRunSheet', { id: 's', sheet: { name: 'As done here' } });
    await screen.settled();
    expect(said.at(-1)).toContain('The run sheet is kept; it is at Deliver.');
    expect(screen.has('make-sheet')).toBe(false);
  });

  test('a name that is not given keeps nothing; cancelled, the book is as before', async () => {
    name = undefined;
    await screen.press(screen.one('pick-steps'));
    await screen.press(screen.one('make-sheet'));
    expect(server.made('sheetFromHistory')).toEqual([]);
    await screen.press('Cancel');
    expect(screen.has('pick-steps')).toBe(true);
  });

  test('an entry is copied as text', async () => {
    const writeText = vi.fn(() => Promise.resolve());
    Object.defineProperty(navigator, 'clipboard', { value: { writeText }, configurable: true });
    await choose(2);
    await screen.press('Copy entry');
    expect(writeText).toHaveBeenCalledWith(expect.stringMatching(/^Find ground: 900 of 1000 points are ground\n.*\nGround: 900\nHighest: 31\.250.m$/s)); // prettier-ignore
    expect(said.at(-1)).toBe('Copied.');
  });

  test('shows the graph in the place of the steps', async () => {
    await screen.press(screen.one('show-graph'));
    expect(screen.all('pam-job-graph')).toHaveLength(1);
    expect(screen.all('.entry')).toHaveLength(0);
  });
});

test('a job in which nothing was done says so', async () => {
  openJob({}, { providers: [RunSheetStore] });
  const empty = await Screen.of(FieldBookComponent);
  expect(empty.text).toContain('Nothing has been done yet.');
  expect(empty.button('Undo').disabled).toBe(true);
});
