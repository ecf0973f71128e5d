// @vitest-environment jsdom
import { PretendDialog, Screen } from '../screen.fixture';
import { expect, test } from 'vitest';
import { storesOver } from '../stores.fixture';
import { NameDialogComponent } from './name-dialog.component';

test('asks for a name, with what it is called now; blanks are none', async () => {
  const dialog = new PretendDialog<string>();
  storesOver(() => undefined, dialog.over({ title: 'Rename', label: 'Name', action: 'Rename', value: 'Old bank' }));
  const screen = await Screen.of(NameDialogComponent);
  const field = screen.one<HTMLInputElement>('[data-testid="name"]');
  expect(field.value).toBe('Old bank');
  for (const blank of ['', '   ']) {
    await screen.type(field, blank);
    expect(screen.one<HTMLButtonElement>('name-done').disabled).toBe(true);
    screen.one('form').dispatchEvent(new Event('submit'));
    expect(dialog.isClosed).toBe(false);
  }
  await screen.type(field, ' New bank ');
  await screen.press(screen.one('name-done'));
  expect(dialog.result).toBe('New bank');
});
