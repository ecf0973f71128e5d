// @vitest-environment jsdom
import { PretendDialog, Screen } from '../../screen.fixture';
import { beforeEach, describe, expect, test } from 'vitest';
import { storesOver } from '../../stores.fixture';
import { ColumnsDialogComponent, type ColumnsDialogData } from './columns-dialog.component';

const column = (name: string, heading: string, ...first: string[]): object => ({ name, heading, first });
const data = {
  fileName: 'flight.csv',
  look: { columns: [column('time', 't', '1', '2'), column('-', 'x', '10', '11'), column('roll', 'r', '0', '1')] },
  names: ['time', 'east', 'roll', 'pitch'],
  needed: [['time'], ['roll'], ['pitch']],
} as unknown as ColumnsDialogData;
let screen: Screen<ColumnsDialogComponent>;
let dialog: PretendDialog<readonly string[]>;

beforeEach(async () => {
  dialog = new PretendDialog();
  storesOver(() => undefined, dialog.over(data));
  screen = await Screen.of(ColumnsDialogComponent);
});
const meanings = (): string[] => screen.all<HTMLSelectElement>('thead select').map(({ value }) => value);

describe('columns of a table before it is read', () => {
  test('begin as they are headed, with their first lines; what is needed and not there is asked for', () => {
    expect(meanings()).toEqual(['time', '-', 'roll']);
    expect(screen.texts('.heading')).toEqual(['t', 'x', 'r']);
    expect(screen.texts('tbody tr')).toEqual(['1100', '2111']);
    expect(screen.one('[role="alert"]').textContent).toMatch(/pitch/i);
    expect(screen.one<HTMLButtonElement>('columns-done').disabled).toBe(true);
  });

  test('once all that is needed is there it comes in, with the names in their order', async () => {
    await screen.choose('column-1', 'pitch');
    await screen.press('Import');
    expect(dialog.result).toEqual(['time', 'pitch', 'roll']);
  });

  test('a meaning is one column’s: who had it before loses it, and “not used” may be said of many', async () => {
    await screen.choose('column-1', 'roll');
    expect(meanings()).toEqual(['time', 'roll', '-']);
    await screen.choose('column-0', '-');
    expect(meanings()).toEqual(['-', 'roll', '-']);
    expect(screen.one<HTMLButtonElement>('columns-done').disabled).toBe(true);
  });
});
