// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { computed, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { KeyTable } from '../../shared/key-table';
import { ProposalQueueComponent } from './proposal-queue.component';
import { ProposalStore, type Proposal } from './proposal-store';

const proposal = (number: number, facts: Partial<Proposal> = {}): Proposal =>
  ({
    number,
    state: 'waiting',
    length: 24.06,
    agree: 0.934,
    residual: 0.0124,
    bridged: [],
    strands: {},
    ...facts,
  }) as never;
const all = signal<Proposal[]>([]);
const current = signal<number | undefined>(undefined);
const set = signal<object | undefined>({ facts: { proposed: 3 } });
const judge = vi.fn();
const go = vi.fn();
let screen: Screen<ProposalQueueComponent>;
let keys: KeyTable;

beforeEach(async () => {
  vi.clearAllMocks();
  all.set([proposal(0), proposal(2, { bridged: [{}, {}] as never })]);
  current.set(undefined);
  set.set({ facts: { proposed: 3 } });
  const store = { set, waiting: computed(() => all()), current, judge, go, show: (n: number) => current.set(n), codesOf: () => ['KERB-FOOT', 'KERB-TOP'] }; // prettier-ignore
  openJob({}, { providers: [KeyTable, { provide: ProposalStore, useValue: store }] });
  screen = await Screen.of(ProposalQueueComponent);
  keys = TestBed.inject(KeyTable);
});
const press = (key: string): boolean => {
  const found = keys.keys().find((each) => each.press.includes(key) && (each.when?.() ?? true));
  if (found) found.run?.(new KeyboardEvent('keydown', { key }));
  return found !== undefined;
};

describe('lines that were found', () => {
  test('are counted; without a set there is nothing', async () => {
    expect(screen.one('proposal-count').textContent).toBe('2 of 3 to judge');
    set.set(undefined);
    await screen.settled();
    expect(screen.text).toBe('');
  });

  test('say why the set is stale', async () => {
    set.set({ facts: { proposed: 3 }, staleBecause: 'East has other classes now.' });
    await screen.settled();
    expect(screen.text).toContain('Stale. East has other classes now.');
  });

  test('are all accepted at once', async () => {
    await screen.press('Accept all');
    expect(judge).toHaveBeenCalledWith('accept', [0, 2]);
  });

  test('are accepted and refused one by one, once one of them is looked at', async () => {
    expect(screen.one<HTMLButtonElement>('accept-proposal').disabled).toBe(true);
    expect([press('a'), press('d')]).toEqual([false, false]);
    current.set(2);
    await screen.settled();
    await screen.press(screen.one('accept-proposal'));
    await screen.press(screen.one('refuse-proposal'));
    expect([press('a'), press('d')]).toEqual([true, true]);
    expect(judge.mock.calls).toEqual([['accept'], ['refuse'], ['accept'], ['refuse']]);
  });

  test('are walked by buttons and by keys', async () => {
    await screen.press(screen.one('next-proposal'));
    press('.');
    press(',');
    expect(go.mock.calls).toEqual([[1], [1], [-1]]);
  });

  test('when all are judged it says so, and the keys do nothing', async () => {
    all.set([]);
    await screen.settled();
    expect(screen.text).toContain('All judged.');
    expect(screen.one<HTMLButtonElement>('accept-all').disabled).toBe(true);
    expect(['.', ',', 'a', 'd'].map(press)).toEqual([false, false, false, false]);
  });
});
