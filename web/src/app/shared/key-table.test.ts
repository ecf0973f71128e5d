// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { createEnvironmentInjector, EnvironmentInjector, runInInjectionContext } from '@angular/core';
import { storesOver } from '../stores.fixture';
import { KeyTable, type Key } from './key-table';

let table: KeyTable;
const pressed: string[] = [];
const key = (press: string, name: string, when?: () => boolean): Key => ({
  press: [press],
  shown: press.toUpperCase(),
  does: name,
  ...(when && { when }),
  run: () => pressed.push(name),
});
const add = (keys: readonly Key[], first = false): { destroy(): void } => {
  const injector = createEnvironmentInjector([], TestBed.inject(EnvironmentInjector));
  runInInjectionContext(injector, () => table.add(keys, { first }));
  return injector;
};
const press = (letter: string, target: Element = document.body): void => {
  const event = new KeyboardEvent('keydown', { key: letter, code: `Key${letter.toUpperCase()}`, bubbles: true });
  target.addEventListener('keydown', (e) => table.pressed(e as KeyboardEvent), { once: true });
  target.dispatchEvent(event);
};

beforeEach(() => {
  storesOver(() => undefined, [KeyTable]);
  table = TestBed.inject(KeyTable);
  pressed.length = 0;
});

describe('keys', () => {
  test('the first that has the key and whose time it is answers, alone', () => {
    let hasSelection = true;
    add([key('r', 'repeat', () => !hasSelection), key('r', 'rotate')]);
    press('r');
    hasSelection = false;
    press('r');
    expect(pressed).toEqual(['rotate', 'repeat']);
  });

  test('a stage that is open is asked first, and no more once it has gone', () => {
    add([key('a', 'workbench')]);
    const stage = add([key('a', 'stage')], true);
    press('a');
    stage.destroy();
    press('a');
    expect(pressed).toEqual(['stage', 'workbench']);
  });

  test('fields, menus and dialogs keep their keys', () => {
    add([key('a', 'accept')]);
    document.body.innerHTML = '<input /><div role="dialog"><button></button></div><p></p>';
    press('a', document.querySelector('input')!);
    press('a', document.querySelector('button')!);
    expect(pressed).toEqual([]);
    press('a', document.querySelector('p')!);
    expect(pressed).toEqual(['accept']);
  });

  test('what works is listed, once, with all the ways to do it', () => {
    add([key('a', 'Undo'), { ...key('b', 'Undo'), shown: 'Ctrl B' }, key('c', 'Redo')]);
    expect(table.rows()).toEqual([
      { shown: 'A, Ctrl B', does: 'Undo' },
      { shown: 'C', does: 'Redo' },
    ]);
  });
});
