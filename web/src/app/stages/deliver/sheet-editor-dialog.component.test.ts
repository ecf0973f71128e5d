// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../../screen.fixture';
import { runSheetSchema, type RunSheet } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { RunSheetStore } from '../../state/run-sheet-store';
import type { PretendServer } from '../../stores.fixture';
import { SheetEditorDialogComponent } from './sheet-editor-dialog.component';

const sheet = runSheetSchema.parse({
  format: 'pampero-run-sheet',
  version: 1,
  name: 'Bank',
  places: [{ key: 'flights', label: 'Flights', kind: 'files' }],
  steps: [
    { kind: 'work', key: 'in', operation: 'import-cloud', file: 'flights' },
    { kind: 'work', key: 'ground', operation: 'find-ground', isProposed: true, parameters: { clouds: [{ from: 'in' }], cell: '1 m' } },
    { kind: 'work', key: 'surface', operation: 'build-surface', parameters: { clouds: [{ from: 'in' }] } },
    { kind: 'gate', key: 'look', gate: { rule: 'look', question: 'Is it right?' } },
  ],
  outputs: [{ of: 'surface', format: 'landxml' }, { of: 'ground', format: 'las' }],
}); // prettier-ignore

let screen: Screen<SheetEditorDialogComponent>;
let server: PretendServer;
let said: string[];
let dialog: PretendDialog<boolean>;
const open = async (id?: string): Promise<void> => {
  dialog = new PretendDialog<boolean>();
  ({ server, said } = openJob({}, { providers: [RunSheetStore, ...dialog.over({ sheet, ...(id && { id }) })] }));
  screen = await Screen.of(SheetEditorDialogComponent);
};
const kept = async (): Promise<RunSheet> => {
  await screen.press(screen.one('sheet-keep'));
  return (server.calls.findLast(({ id }) => /RunSheet$/.test(id))!.given.body as { sheet: RunSheet }).sheet;
};
const field = (label: string): HTMLInputElement & HTMLSelectElement => screen.one(`[aria-label="${label}"]`);

beforeEach(() => open('bank'));

describe('a run sheet as a table', () => {
  test('tells each step in a line: what it reads, and what was set', () => {
    expect(screen.texts('.title')).toEqual([
      'Import a cloudreads Flights'.replace('Import a cloud', screen.texts('.title')[0]!.replace('reads Flights', '')),
      expect.stringMatching(/settings as proposed · .*: from in · .*: 1 m$/),
      expect.stringMatching(/: from in$/),
      'Gate: a look',
    ]);
  });

  test('as it was, it is kept as it was', async () => {
    expect(await kept()).toEqual(sheet);
    expect(server.made('changeRunSheet')).toHaveLength(1);
    server.answer('changeRunSheet', { id: 'bank', sheet });
    expect([said.at(-1), dialog.result]).toEqual(['Kept: Bank', true]);
  });

  test('a new one has one way to be kept, one that is there two', async () => {
    await screen.press('Keep as a new sheet');
    expect(server.made('keepRunSheet')).toHaveLength(1);
    await open();
    expect(screen.texts('button')).not.toContain('Keep as a new sheet');
    await kept();
    expect(server.made('keepRunSheet')).toHaveLength(1);
  });

  test('a step is turned off, another removed with what would have left of it', async () => {
    await screen.tick(field('Do step 2'));
    await screen.press('Remove step 3');
    const { steps, outputs } = await kept();
    expect(steps.map(({ key, isOff }) => [key, isOff])).toEqual([['in', false], ['ground', true], ['look', false]]); // prettier-ignore
    expect(outputs).toEqual([{ of: 'ground', format: 'las' }]);
  });

  test('settings of a step: typed with a unit, as so many spacings, or left as usual', async () => {
    await screen.press(screen.one('step-ground'));
    const cell = screen.all<HTMLInputElement>('.fields input:not([type])').find(({ value }) => value === '1 m')!;
    await screen.type(cell, '2 spacings');
    expect((await kept()).steps[1]).toMatchObject({ parameters: { cell: { spacings: 2 } } });
    await screen.type(cell, '80 cm');
    expect((await kept()).steps[1]).toMatchObject({ parameters: { cell: '80 cm' } });
    await screen.type(cell, '');
    expect((await kept()).steps[1]).not.toHaveProperty('parameters.cell');
  });

  test('clouds come from an earlier step or are every one of the job; a later step is not offered', async () => {
    await screen.press(screen.one('step-ground'));
    const clouds = screen.all<HTMLSelectElement>('.fields select').find(({ value }) => value === 'from in')!;
    expect([...clouds.options].map(({ value }) => value)).toEqual(['', 'from in', 'every cloud']);
    await screen.choose(clouds, 'every cloud');
    expect((await kept()).steps[1]).toMatchObject({ parameters: { clouds: { every: 'cloud' } } });
  });

  test('a gate on a figure of an earlier step, with a limit', async () => {
    await screen.choose('add-step', 'gate-figure');
    await screen.type('gate-limit', '3 cm');
    const [of, must] = screen.all<HTMLSelectElement>('.fields select');
    expect([...of!.options].map(({ value }) => value)).toEqual(['in', 'ground', 'surface']);
    await screen.choose(must!, 'at-least');
    expect((await kept()).steps.at(-1)).toMatchObject({
      kind: 'gate',
      gate: { rule: 'figure', of: 'surface', must: 'at-least', limit: '3 cm' },
    });
  });

  test('a step that reads files brings a place for them, which can be called otherwise', async () => {
    await screen.choose('add-step', 'import-control');
    const { places, steps } = await kept();
    expect(places.at(-1)).toMatchObject({ key: 'control-files', kind: 'files' });
    expect(steps.at(-1)).toMatchObject({ operation: 'import-control', file: 'control-files' });
    await screen.type(field(`Label of ${places.at(-1)!.label}`), 'Points measured');
    expect((await kept()).places.at(-1)).toMatchObject({ label: 'Points measured' });
  });

  test('a second step of a kind has a key of its own', async () => {
    await screen.choose('add-step', 'find-ground');
    await screen.choose('add-step', 'find-ground');
    const keys = (await kept()).steps.map(({ key }) => key);
    expect(new Set(keys).size).toBe(keys.length);
  });

  test('what the server finds wrong is told by the number of the step', async () => {
    await kept();
    server.refuse('changeRunSheet', 'The run sheet has faults.', [
      { pointer: '/sheet', detail: 'steps[1].parameters.cell: “wide” is no length.' },
      { pointer: '/sheet', detail: 'Nothing leaves it.' },
    ]);
    await screen.settled();
    expect(screen.texts('[data-testid="sheet-faults"] li')).toEqual([
      'Step 2: “wide” is no length.',
      'Nothing leaves it.',
    ]);
    expect(dialog.isClosed).toBe(false);
  });
});
