// @vitest-environment jsdom
import { Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { storesOver } from '../../stores.fixture';
import { TextLayoutComponent } from './text-layout.component';

const LINES = ['# strip 4', 'x;y;z;class', ...Array.from({ length: 12 }, (_, k) => `${k},5;2;3;${k}`)];
const layout = signal<object | undefined>(undefined);
const file = { layout, changeLayout: vi.fn(), setColumn: vi.fn() };
let screen: Screen<TextLayoutComponent>;

beforeEach(async () => {
  vi.clearAllMocks();
  layout.set({ delimiter: ';', hasDecimalComma: true, skippedLines: 2, columns: ['easting', 'northing', 'elevation', 'none'] }); // prettier-ignore
  storesOver(() => undefined);
  screen = await Screen.of(TextLayoutComponent, { file, lines: LINES });
});

describe('the first lines of a text in their columns', () => {
  test('those that are skipped are shown paled, before those that are read', () => {
    expect(screen.all('tbody tr')).toHaveLength(8);
    expect(screen.texts('tr.skipped')).toEqual(['# strip 4', 'xyzclass']);
    expect(screen.texts('tbody tr:nth-child(3) td')).toEqual(['0,5', '2', '3', '0']);
  });

  test('each column has its meaning over it, and gets another there', async () => {
    const meanings = screen.all<HTMLSelectElement>('thead select');
    expect(meanings.map(({ value }) => value)).toEqual(['easting', 'northing', 'elevation', 'none']);
    expect(meanings[0]!.options[0]!.textContent).toBe('not used');
    await screen.choose(meanings[3]!, 'class');
    expect(file.setColumn).toHaveBeenCalledWith(3, 'class');
  });

  test('another separator, lines to skip, a decimal comma', async () => {
    await screen.choose('text-delimiter', ',');
    await screen.type(screen.one<HTMLInputElement>('input[type="number"]'), '1');
    await screen.tick(screen.one<HTMLInputElement>('input[type="checkbox"]'));
    expect(file.changeLayout.mock.calls.map(([change]) => change as object)).toEqual([
      { delimiter: ',' },
      { skippedLines: 1 },
      { hasDecimalComma: false },
    ]);
  });

  test('many lines skipped: the last two of them are shown, then what is read', async () => {
    layout.set({
      delimiter: ';',
      hasDecimalComma: true,
      skippedLines: 5,
      columns: ['easting', 'northing', 'elevation'],
    });
    await screen.settled();
    expect(screen.all('tr.skipped')).toHaveLength(2);
    expect(screen.texts('tbody tr:nth-child(3) td')[0]).toBe('3,5');
  });

  test('a file of one line, and one that is not looked at yet', async () => {
    layout.set(undefined);
    await screen.set('lines', ['1 2 3']);
    expect(screen.texts('tbody td')).toEqual(['1', '2', '3']);
  });
});
