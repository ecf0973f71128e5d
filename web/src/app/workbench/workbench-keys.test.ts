// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { Router } from '@angular/router';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { KeyTable } from '../shared/key-table';
import { JobStore } from '../state/job-store';
import { LookStore } from '../state/look-store';
import { ViewStore } from '../state/view-store';
import { storesOver } from '../stores.fixture';
import { SelectionStore } from '../tools/selection-store';
import { TOOLS } from '../tools/tools';
import { ViewCameras } from '../viewer/view-cameras';
import { WorkbenchKeys } from './workbench-keys';

const did: string[] = [];
const note =
  (what: string) =>
  (...given: unknown[]): void =>
    void did.push([what, ...given.map((each) => JSON.stringify(each))].join(' '));
const isEmpty = signal(true);
const own = signal<{ code: number; key?: string }[]>([]);
const tool = signal('look');
const pane = signal('plan');
const isBookOpen = signal(false);
let table: KeyTable;

/** A key as a keyboard sends it: the letter it writes, and where it lies. */
function press(key: string, modifiers: Partial<KeyboardEventInit> = {}, target: HTMLElement = document.body): void {
  const code = /^\d$/.test(key) ? `Digit${key}` : /^[a-z]$/i.test(key) ? `Key${key.toUpperCase()}` : key;
  const event = new KeyboardEvent('keydown', { key, code, bubbles: true, cancelable: true, ...modifiers });
  target.addEventListener('keydown', (e) => table.pressed(e), { once: true });
  target.dispatchEvent(event);
}

beforeEach(() => {
  did.length = 0;
  isEmpty.set(true);
  own.set([]);
  tool.set('look');
  pane.set('plan');
  isBookOpen.set(false);
  storesOver(
    () => undefined,
    [
      KeyTable,
      WorkbenchKeys,
      { provide: JobStore, useValue: { jobId: () => 'job', jobClasses: own, undo: note('undo'), redo: note('redo') } },
      { provide: ViewStore, useValue: { tool, pane, isBookOpen, takeTool: note('tool') } },
      { provide: LookStore, useValue: { nextMode: note('colour'), release: note('release') } },
      { provide: ViewCameras, useValue: { turnSection: note('turn'), frameAll: note('whole') } },
      {
        provide: SelectionStore,
        useValue: { isEmpty, setClass: note('class'), withhold: note('withhold'), restore: note('restore'), invert: note('invert'), repeat: note('repeat'), focus: note('focus'), setAside: note('aside'), clear: note('clear') }, // prettier-ignore
      },
      { provide: Router, useValue: { navigate: note('go') } },
      { provide: MatDialog, useValue: { open: note('dialog') } },
    ],
  );
  TestBed.inject(WorkbenchKeys);
  table = TestBed.inject(KeyTable);
});

describe('keys of the workbench', () => {
  test('digits go to stages while nothing is selected, and set classes while something is', () => {
    press('3');
    isEmpty.set(false);
    press('3');
    press('3', { shiftKey: true });
    press('1', { altKey: true });
    expect(did).toEqual(['go ["/jobs","job","clean"]', 'class 3', 'class 13', 'class 21']);
  });

  test('a letter that the surveyor gave to a class is that class’s, but only with points selected', () => {
    own.set([{ code: 70, key: 'f' }, { code: 71 }]);
    isEmpty.set(false);
    press('f');
    // F focuses by itself: the selection's own keys come first, so a class cannot take them away.
    expect(did).toEqual(['focus']);
    did.length = 0;
    own.set([{ code: 70, key: 'x' }]);
    press('x');
    isEmpty.set(true);
    press('x');
    expect(did[0]).toBe('class 70');
    expect(did.filter((what) => what.startsWith('class'))).toHaveLength(1);
  });

  test('what is done to a selection asks for one; without one R brings the last back and Esc leaves the tool', () => {
    for (const key of ['Delete', 'Insert', 'i', 'f', 'h']) press(key);
    expect(did.filter((what) => /withhold|restore|invert|focus|aside/.test(what))).toEqual([]);
    did.length = 0;
    press('r');
    press('Escape');
    isEmpty.set(false);
    for (const key of ['Delete', 'Insert', 'i', 'f', 'h', 'Escape']) press(key);
    expect(did).toEqual(['repeat', 'tool "look"', 'withhold', 'restore', 'invert', 'focus', 'aside', 'clear']);
  });

  test('each tool has a key that takes it, and pressed again puts it back', () => {
    for (const { id, key } of TOOLS) {
      did.length = 0;
      tool.set('look');
      press(key);
      const isLook = id === 'look';
      expect(did, key).toEqual([`tool "${id}"`]);
      if (isLook) continue;
      tool.set(id);
      press(key);
      expect(did, key).toEqual([`tool "${id}"`, 'tool "look"']);
    }
  });

  test('views, colours, field book, undo and redo', () => {
    for (const key of ['c', 'g', 'l', 'w']) press(key);
    expect(did).toEqual(['colour', 'release', 'turn', 'whole']);
    const panes = [1, 2, 3].map(() => (press('v'), pane()));
    expect(panes).toEqual(['model', 'both', 'plan']);
    press('b');
    expect(isBookOpen()).toBe(true);
    did.length = 0;
    press('z', { ctrlKey: true });
    press('z', { ctrlKey: true, shiftKey: true });
    press('y', { ctrlKey: true });
    expect(did).toEqual(['undo', 'redo', 'redo']);
  });

  test('nothing is done while one types', () => {
    const field = document.body.appendChild(document.createElement('input'));
    for (const key of ['3', 'c', 'Escape']) press(key, {}, field);
    expect(did).toEqual([]);
    field.remove();
  });

  test('no two keys without a condition answer the same press: who reads the list knows what happens', () => {
    const plain = table.keys().filter(({ run, when }) => run && !when);
    const presses = plain.flatMap(({ press: of }) => of);
    const twice = presses.filter((each, k) => presses.indexOf(each) !== k);
    expect(twice).toEqual([]);
  });

  test('? shows the list, in which every key that works stands', () => {
    const open = vi.spyOn(TestBed.inject(MatDialog), 'open');
    press('?', { shiftKey: true });
    const rows = open.mock.calls[0]![1]!.data as { shown: string; does: string }[];
    expect(rows.map(({ does }) => does)).toEqual([...new Set(table.keys().map(({ does }) => does))]);
    expect(rows.every(({ shown, does }) => shown !== '' && does !== '')).toBe(true);
  });
});
