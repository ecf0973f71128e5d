// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import type { SheetRun, SheetRunStep } from '@pampero/contract';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { RunSheetStore } from '../../state/run-sheet-store';
import { SheetRunComponent } from './sheet-run.component';

const step = (key: string, state: SheetRunStep['state'], facts: Partial<SheetRunStep> = {}): SheetRunStep => ({
  key, title: key, kind: 'work', state, outcome: '', figures: [], ...facts,
}); // prettier-ignore
const run = (facts: Partial<SheetRun> = {}): SheetRun => ({
  id: 3, name: 'Bank', state: 'running', steps: [step('in', 'done', { outcome: '1000 points', durationMs: 2000 }), step('ground', 'running')],
  startedAt: '2026-01-01T00:00:00.000Z', progress: 0.514, outputs: [], ...facts,
}); // prettier-ignore
const sheets = { accept: vi.fn(), goOn: vi.fn(), cancel: vi.fn() };
let screen: Screen<SheetRunComponent>;

beforeEach(async () => {
  vi.clearAllMocks();
  openJob({}, { providers: [{ provide: RunSheetStore, useValue: sheets }] });
  screen = await Screen.of(SheetRunComponent, { run: run({ secondsLeft: 130 }) });
});
const waits = (gate: Partial<SheetRunStep>): Promise<void> =>
  screen.set(
    'run',
    run({ state: 'waiting', steps: [step('RMSEz at most 5 cm', 'waiting', { kind: 'gate', ...gate })] }),
  );

describe('a run sheet on its way', () => {
  test('says how far it is, how long yet, and what each step came to', () => {
    expect(screen.one('sheet-run-state').textContent).toMatch(/^51 %, about .* left$/);
    expect(screen.one('[role="progressbar"]').getAttribute('aria-valuenow')).toBe('51');
    expect(screen.texts('li .what')).toEqual(['in 1000 points', 'ground']);
    expect(screen.all('.mark').map((mark) => mark.getAttribute('aria-label'))).toEqual(['done', 'running']);
  });

  test('can be cancelled while it is open, and not once it is over', async () => {
    await screen.press(screen.one('run-cancel'));
    expect(sheets.cancel).toHaveBeenCalledOnce();
    for (const state of ['done', 'cancelled'] as const) {
      await screen.set('run', run({ state }));
      expect([screen.has('run-cancel'), screen.one('sheet-run-state').textContent]).toEqual([false, state]);
    }
  });

  test('a gate that did not hold waits for a reason, or is checked again', async () => {
    await waits({ outcome: 'RMSEz is 7 cm.', figures: [{ label: 'RMSEz', value: 0.07, quantity: 'length' }] as never });
    expect(screen.one('gate').textContent).toContain('RMSEz is 7 cm.');
    expect(screen.one('sheet-run-state').classList).toContain('attention');
    expect(screen.one<HTMLButtonElement>('gate-accept').disabled).toBe(true);
    await screen.type('gate-reason', ' a ');
    expect(screen.one<HTMLButtonElement>('gate-accept').disabled).toBe(true);
    await screen.type('gate-reason', ' Grass of a metre ');
    await screen.press('Accept and go on');
    expect(sheets.accept).toHaveBeenCalledWith(expect.anything(), 'RMSEz at most 5 cm', 'Grass of a metre');
    expect(screen.one<HTMLInputElement>('gate-reason').value).toBe('');
    await screen.press('Check again');
    expect(sheets.goOn).toHaveBeenCalledOnce();
  });

  test('a look by a person asks for what was found, and there is nothing to check again', async () => {
    await waits({ title: 'Is it right?', outcome: 'Is it right?' });
    expect(screen.one('gate').textContent).toContain('Look at it in the views, then write what you found.');
    expect(screen.texts('button')).toContain('It is right, go on');
    expect(screen.texts('button')).not.toContain('Check again');
  });

  test('stopped, it says why and goes on from there', async () => {
    await screen.set('run', run({ state: 'stopped', because: 'The server was ended.' }));
    expect(screen.text).toContain('The server was ended.');
    await screen.press(screen.one('run-go-on'));
    expect(sheets.goOn).toHaveBeenCalledOnce();
  });

  test('what was accepted keeps its reason in sight', async () => {
    await screen.set('run', run({ state: 'done', steps: [step('gate', 'accepted', { reason: 'Grass of a metre' })] }));
    expect(screen.text).toContain('Accepted: Grass of a metre');
  });
});
