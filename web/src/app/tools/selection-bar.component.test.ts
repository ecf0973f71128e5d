// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { computed, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { ViewStore } from '../state/view-store';
import { cloud } from '../stores.fixture';
import { SelectionBarComponent } from './selection-bar.component';
import { PatchStore } from './patch-store';
import { SelectionStore } from './selection-store';

const steps = signal<object[]>([]);
const selection = {
  isEmpty: computed(() => steps().length === 0),
  problem: signal<string | undefined>(undefined),
  lastOutcome: signal<string | undefined>(undefined),
  canRepeat: signal(false),
  drawnAs: signal('new'),
  seenOnly: signal(true),
  brushRadius: signal(14),
  count: signal<object | undefined>(undefined),
  byClass: signal<object[]>([]),
  ...Object.fromEntries(
    ['setClass', 'withhold', 'restore', 'focus', 'setAside', 'invert', 'clear', 'repeat', 'copy', 'keep'].map((name) => [name, vi.fn()]),
  ),
} as unknown as Record<string, never>; // prettier-ignore
const patches = {
  reach: signal(0.8),
  heightStep: signal(0.25),
  limit: signal(60),
  colourStep: signal(0),
  regrow: vi.fn(),
};
const signals = selection as unknown as Record<string, { set(value: unknown): void; (): unknown }>;
let screen: Screen<SelectionBarComponent>;
let views: ViewStore;
let said: string[];
let name: string | undefined;

beforeEach(async () => {
  vi.clearAllMocks();
  steps.set([]);
  patches.reach.set(0.8);
  for (const [key, value] of Object.entries({ problem: undefined, lastOutcome: undefined, canRepeat: false, drawnAs: 'new', count: undefined, byClass: [] })) signals[key]!.set(value); // prettier-ignore
  name = 'A heap';
  ({ said } = openJob(
    { clouds: [cloud({ id: 1 })], classes: [{ code: 64, name: 'Stone heap', colour: '#aa5500' }] },
    {
      providers: [
        { provide: SelectionStore, useValue: selection },
        { provide: PatchStore, useValue: patches },
        { provide: MatDialog, useValue: { open: () => ({ afterClosed: () => of(name) }) } },
      ],
    },
  ));
  views = TestBed.inject(ViewStore);
  screen = await Screen.of(SelectionBarComponent);
});
const select = async (points: number, byClass: object[] = [], withheld = 0): Promise<void> => {
  steps.set([{}]);
  signals['count']!.set({ points, withheld });
  signals['byClass']!.set(byClass);
  await screen.settled();
};
const called = (of: string): unknown[][] => (selection[of] as unknown as ReturnType<typeof vi.fn>).mock.calls;

describe('the bar of what is selected', () => {
  test('is there with a tool that selects, and while something is', async () => {
    expect(screen.text).toBe('');
    views.takeTool('outline');
    await screen.settled();
    expect(screen.text).toContain('Nothing is selected.');
    views.takeTool('look');
    await select(3);
    expect(screen.text).toContain('3');
  });

  test('counts points, and the classes that most of them are of', async () => {
    const row = (code: number, points: number): object => ({ code, points, name: `class ${code}`, colour: '#000' });
    await select(
      15,
      [5, 4, 3, 2, 1].map((points) => row(points, points)),
    );
    expect(screen.one('selected-count').textContent).toBe('15');
    expect(screen.texts('.class')).toHaveLength(4);
    expect(screen.text).toContain('and 1 class more');
    await select(1);
    expect(screen.text).toContain('1point');
    signals['count']!.set(undefined);
    await screen.settled();
    expect(screen.text).toContain('counting …');
  });

  test('what is drawn next is new, added, taken away or kept within', async () => {
    views.takeTool('outline');
    await screen.settled();
    await screen.press(screen.one('mode-take'));
    expect([signals['drawnAs']!(), screen.one('mode-take').getAttribute('aria-pressed')]).toEqual(['take', 'true']);
  });

  test('gets a class of the standard or of the job', async () => {
    await select(3);
    const choice = screen.one<HTMLSelectElement>('class-choice');
    expect([...choice.options].at(-1)!.textContent.trim()).toBe('64 Stone heap');
    await screen.choose(choice, '64');
    await screen.press('Set class');
    expect(called('setClass')).toEqual([[64]]);
  });

  test('is withheld, looked at alone, turned round, cleared; restored only where something is withheld', async () => {
    await select(3);
    expect(screen.has('restore')).toBe(false);
    for (const id of ['withhold', 'focus', 'set-aside', 'invert', 'clear-selection'])
      await screen.press(screen.one(id));
    await select(3, [], 2);
    await screen.press(screen.one('restore'));
    for (const of of ['withhold', 'focus', 'setAside', 'invert', 'clear', 'restore']) expect([of, called(of).length]).toEqual([of, 1]); // prettier-ignore
  });

  test('says what became of it, and offers it once more', async () => {
    signals['lastOutcome']!.set('12 points to 6 Building');
    signals['canRepeat']!.set(true);
    await screen.settled();
    expect(screen.one('last-outcome').textContent).toBe('12 points to 6 Building');
    await screen.press('Select again');
    expect(called('repeat')).toHaveLength(1);
    await screen.press('Close');
    expect(signals['lastOutcome']!()).toBeUndefined();
  });

  test('tells what went wrong until it is closed', async () => {
    signals['problem']!.set('The cloud is being changed.');
    await screen.settled();
    expect(screen.one('selection-problem').textContent).toContain('The cloud is being changed.');
    await screen.press('Close');
    expect(screen.has('selection-problem')).toBe(false);
  });

  test('a patch that grows: its reach in any unit, grown anew only when it changed', async () => {
    views.takeTool('touch');
    await screen.settled();
    const [reach] = screen.all<HTMLInputElement>('input.length');
    await screen.type(reach!, '0.8');
    expect(patches.regrow).not.toHaveBeenCalled();
    await screen.type(reach!, '120 cm');
    expect(patches.regrow).toHaveBeenCalled();
    expect([patches.reach(), reach!.value]).toEqual([1.2, '1.20']);
    await screen.type(reach!, '-1');
    expect([reach!.value, said.at(-1)]).toEqual(['1.20', 'The reach stays as it was. It must be more than 0.']);
  });
});
