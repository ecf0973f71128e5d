// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../screen.fixture';
import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA } from '@angular/material/dialog';
import { beforeEach, describe, expect, test } from 'vitest';
import { LookStore } from '../state/look-store';
import { cloud, type PretendServer } from '../stores.fixture';
import { ClassDialogComponent } from './class-dialog.component';

let screen: Screen<ClassDialogComponent>;
let server: PretendServer;
let dialog: PretendDialog;
const rowOf = (code: number): HTMLTableRowElement =>
  screen.all<HTMLTableRowElement>('tbody tr').find((row) => row.cells[0]!.textContent.trim() === String(code))!;
const input = (code: number, what: string): HTMLInputElement =>
  rowOf(code).querySelector(`input[aria-label="${what} of class ${code}"]`)!;
const started = (): [unknown, unknown][] =>
  server.made('startOperation').map(({ given }) => [given.params!['operation'], given.body]);

beforeEach(async () => {
  dialog = new PretendDialog();
  ({ server } = openJob(
    {
      clouds: [cloud({ id: 1, classCounts: { '1': 700, '2': 290, '64': 10 } })],
      classes: [{ code: 64, name: 'Stone heap', colour: '#aa5500', key: 'h' }],
    },
    {
      providers: [
        ...dialog.over(),
        { provide: MAT_DIALOG_DATA, useFactory: () => ({ store: stores.job(), look: TestBed.inject(LookStore) }) },
      ],
    },
  ));
  screen = await Screen.of(ClassDialogComponent);
});
const stores = { job: () => TestBed.inject(LookStore)['store'] };

describe('classes of a job', () => {
  test('are the standard’s and one’s own, with their points and keys', () => {
    expect(rowOf(2).textContent).toContain('290');
    expect(input(2, 'Name').value).toBe('Ground');
    expect(input(64, 'Name').value).toBe('Stone heap');
    expect(input(64, 'Key').value).toBe('h');
    expect(input(64, 'Colour').value).toBe('#aa5500');
    // What points use cannot go.
    expect(rowOf(64).querySelector('button')).toBeNull();
  });

  test('as they were: nothing is stored', async () => {
    await screen.press('Keep');
    expect(started()).toEqual([]);
    expect(dialog.isClosed).toBe(true);
  });

  test('a name, a key: only what differs from the standard is kept', async () => {
    await screen.type(input(2, 'Name'), 'Bare earth');
    await screen.type(input(3, 'Key'), 'l');
    await screen.press('Keep');
    const [[operation, body]] = started() as [[string, { classes: { code: number; name: string; key?: string }[] }]];
    expect(operation).toBe('edit-classes');
    expect(body.classes.map(({ code, name, key }) => [code, name, key])).toEqual([
      [2, 'Bare earth', undefined],
      [3, 'Low vegetation', 'l'],
      [64, 'Stone heap', 'h'],
    ]);
  });

  test('a new one takes the next code that is free, and goes again', async () => {
    await screen.press(screen.one('add-class'));
    expect(input(65, 'Name').value).toBe('My class 65');
    await screen.press('Remove class 65');
    expect(rowOf(65)).toBeUndefined();
    await screen.press(screen.one('add-class'));
    await screen.type(input(65, 'Name'), ' Rubble ');
    await screen.press('Keep');
    const { classes } = started()[0]![1] as { classes: { code: number; name: string }[] };
    expect(classes.find(({ code }) => code === 65)?.name).toBe('Rubble');
  });

  test('a key used twice, a class without a name: said with the class, nothing stored, nothing lost', async () => {
    await screen.type(input(2, 'Key'), 'h');
    await screen.press('Keep');
    expect(screen.one('.notice.error').textContent).toBe(
      'The key “h” is given to two classes. Give one of them another.',
    );
    await screen.type(input(2, 'Key'), '');
    await screen.type(input(64, 'Name'), '');
    await screen.press('Keep');
    expect(screen.one('.notice.error').textContent).toMatch(/^Class 64: .*\.$/);
    expect([started(), dialog.isClosed]).toEqual([[], false]);
  });

  test('merged into another: all its points, withheld ones too', async () => {
    const merge = rowOf(64).querySelector('select')!;
    expect([...merge.options].map(({ value }) => value)).not.toContain('64');
    await screen.choose(merge, '2');
    await screen.press('Keep');
    expect(started()).toEqual([
      [
        'set-class',
        {
          classCode: 2,
          selection: [
            {
              how: 'add',
              shape: { kind: 'classes', classes: [64] },
              visible: { hiddenClasses: [], withWithheld: true },
            },
          ],
        },
      ],
    ]);
  });
});
