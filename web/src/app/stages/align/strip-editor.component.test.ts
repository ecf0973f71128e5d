// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { StripEditorComponent } from './strip-editor.component';
import { StripEditStore } from './strip-edit-store';

const edits = {
  isTimed: signal(true),
  click: signal('draw'),
  begun: signal<object | undefined>(undefined),
  fault: signal(''),
  draft: signal<Record<string, unknown>[]>([]),
  trajectory: signal<object | undefined>({}),
  cloud: signal({ columns: { gpsTime: true } }),
  change: vi.fn((at: number, change: object) =>
    edits.draft.update((all) => all.map((each, k) => (k === at ? { ...each, ...change } : each))),
  ),
  remove: vi.fn((at: number) => edits.draft.update((all) => all.filter((_, k) => k !== at))),
  keep: vi.fn(),
  clear: vi.fn(),
  leave: vi.fn(),
};
let screen: Screen<StripEditorComponent>;

beforeEach(async () => {
  vi.clearAllMocks();
  edits.isTimed.set(true);
  edits.click.set('draw');
  edits.begun.set(undefined);
  edits.fault.set('');
  edits.draft.set([
    { name: 'A', from: 100, to: 190, isLeftOut: false },
    { name: 'B', from: 200, to: 260, isLeftOut: true },
  ]);
  openJob({}, { providers: [{ provide: StripEditStore, useValue: edits }] });
  screen = await Screen.of(StripEditorComponent);
});
const keeps = (): boolean => !screen.one<HTMLButtonElement>('keep-strips').disabled;

describe('strips that are edited', () => {
  test('have a name, how long they are, and whether they are used', () => {
    expect(screen.all<HTMLInputElement>('input[type="text"]').map(({ value }) => value)).toEqual(['A', 'B']);
    expect(screen.all<HTMLInputElement>('[aria-label="Strip is used"]').map(({ checked }) => checked)).toEqual([true, false]); // prettier-ignore
    expect(screen.texts('tbody td.num')[0]).toMatch(/1.*30|90/);
    expect(keeps()).toBe(true);
  });

  test('need a name each, and one that is used', async () => {
    await screen.type(screen.all<HTMLInputElement>('input[type="text"]')[1]!, '  ');
    expect([keeps(), screen.text]).toEqual([false, expect.stringContaining('Give every strip a name.')]);
    await screen.type(screen.all<HTMLInputElement>('input[type="text"]')[1]!, 'A');
    expect(keeps()).toBe(true);
    await screen.tick(screen.all<HTMLInputElement>('[aria-label="Strip is used"]')[0]!);
    expect([keeps(), screen.text]).toEqual([false, expect.stringContaining('Use one strip at least.')]);
    for (let k = 0; k < 2; k++) await screen.press(screen.all('[aria-label="Remove the strip"]')[0]!);
    expect([keeps(), screen.text]).toEqual([false, expect.stringContaining('Draw a strip on the trajectory.')]);
  });

  test('a click draws or splits; a strip that has begun is told, and so is a click that went wrong', async () => {
    await screen.tick(screen.one('strip-click-split'));
    expect(edits.click()).toBe('split');
    edits.begun.set({});
    edits.fault.set('Click nearer to the trajectory.');
    await screen.settled();
    expect(screen.has('strip-begun')).toBe(true);
    expect(screen.one('[role="alert"]').textContent).toBe('Click nearer to the trajectory.');
  });

  test('told by the point source ID they cannot be drawn or removed', async () => {
    edits.isTimed.set(false);
    edits.draft.set([{ name: 'A', sourceId: 4, isLeftOut: false }, { name: 'B', isLeftOut: false }]); // prettier-ignore
    await screen.settled();
    expect(screen.texts('tbody td.num')).toEqual(['ID 4', 'ID –']);
    expect([screen.has('strip-click-draw'), screen.all('[aria-label="Remove the strip"]').length]).toEqual([false, 0]);
    await screen.press(screen.one('draw-all-strips'));
    expect(edits.clear).toHaveBeenCalledOnce();
    edits.trajectory.set(undefined);
    await screen.settled();
    expect(screen.has('draw-all-strips')).toBe(false);
    edits.trajectory.set({});
  });

  test('are kept, or left as they were', async () => {
    await screen.press('Keep these strips');
    await screen.press('Cancel');
    expect([edits.keep.mock.calls.length, edits.leave.mock.calls.length]).toEqual([1, 1]);
  });
});
