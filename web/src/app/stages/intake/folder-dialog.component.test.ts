// @vitest-environment jsdom
import { PretendDialog, Screen } from '../../screen.fixture';
import { beforeEach, describe, expect, test } from 'vitest';
import { storesOver, turn, type PretendServer } from '../../stores.fixture';
import { FolderDialogComponent, type PickedPath } from './folder-dialog.component';

let screen: Screen<FolderDialogComponent>;
let server: PretendServer;
let dialog: PretendDialog<readonly PickedPath[]>;
const entries = [
  { name: 'flights', isFolder: true, bytes: 0 },
  { name: 'east.laz', isFolder: false, bytes: 25_000_000 },
  { name: 'west.laz', isFolder: false, bytes: 1000 },
];
const answer = async (list: object[]): Promise<void> => {
  await turn(5);
  server.answer('listFolder', { entries: list });
  await screen.settled();
};

beforeEach(async () => {
  dialog = new PretendDialog();
  ({ server } = storesOver(() => undefined, dialog.over()));
  screen = await Screen.of(FolderDialogComponent);
});

describe('clouds in the folder of the server', () => {
  test('are picked, in several folders together', async () => {
    expect(screen.text).toContain('Reading …');
    await answer(entries);
    expect(screen.button('Look at 0').disabled).toBe(true);
    await screen.tick(screen.all<HTMLInputElement>('input')[0]!);
    await screen.press('▸ flights');
    await answer([{ name: 'north.las', isFolder: false, bytes: 5 }]);
    expect(server.made('listFolder').at(-1)!.given.query).toEqual({ path: 'flights' });
    await screen.tick(screen.all<HTMLInputElement>('input')[0]!);
    await screen.press('Look at 2');
    expect(dialog.result).toEqual([
      { folderPath: 'east.laz', bytes: 25_000_000 },
      { folderPath: 'flights/north.las', bytes: 5 },
    ]);
  });

  test('a second click lets one go; one folder up it is still picked', async () => {
    await answer(entries);
    await screen.tick(screen.all<HTMLInputElement>('input')[1]!);
    await screen.press('▸ flights');
    await answer([{ name: 'deep', isFolder: true, bytes: 0 }]);
    await screen.press('▸ deep');
    await answer([]);
    expect(screen.text).toContain('/flights/deep');
    expect(screen.text).toContain('No point files here.');
    await screen.press('⮤ one folder up');
    await answer([]);
    await screen.press('⮤ one folder up');
    await answer(entries);
    expect(screen.all<HTMLInputElement>('input').map(({ checked }) => checked)).toEqual([false, true]);
    await screen.tick(screen.all<HTMLInputElement>('input')[1]!);
    expect(screen.button('Look at 0').disabled).toBe(true);
  });

  test('a folder that cannot be read is told as such and not as empty', async () => {
    await turn(5);
    server.refuse('listFolder', 'No folder is open to this server. Set PAMPERO_FOLDER.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('No folder is open to this server. Set PAMPERO_FOLDER.');
    expect(screen.text).not.toContain('No point files');
  });
});
