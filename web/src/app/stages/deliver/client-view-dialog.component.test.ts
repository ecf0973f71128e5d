// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../../screen.fixture';
import { beforeEach, describe, expect, test } from 'vitest';
import { catchSaved, type SavedFile } from '../../saved.fixture';
import { cloud, surface, type PretendServer } from '../../stores.fixture';
import { ClientViewDialogComponent } from './client-view-dialog.component';

let screen: Screen<ClientViewDialogComponent>;
let server: PretendServer;
let saved: readonly SavedFile[];
let dialog: PretendDialog<boolean>;
const body = (id: string) => server.made(id).at(-1)!.given.body as Record<string, unknown>;

beforeEach(async () => {
  saved = catchSaved();
  dialog = new PretendDialog<boolean>();
  const picture = surface(8, { kind: 'picture', name: 'Orthophoto' } as never);
  const contours = surface(9, { kind: 'contours', name: 'Contours 0.5' } as never);
  ({ server } = openJob(
    { clouds: [cloud({ id: 3 })], products: [surface(1), surface(4), picture, contours] },
    { providers: dialog.over() },
  ));
  screen = await Screen.of(ClientViewDialogComponent);
});

describe('a page for the client', () => {
  test('begins with the newest ground, picture and contours, and the points', async () => {
    await screen.press(screen.one('view-download'));
    expect(body('writeClientView')).toEqual({
      title: 'Job', words: '', surfaceId: 4, pictureId: 8, contoursId: 9, clouds: [3], megabytes: 20, withLines: true,
      withPlaces: true,
    }); // prettier-ignore
    const page = new ArrayBuffer(2);
    server.answer('writeClientView', page);
    expect(saved).toEqual([{ bytes: page, name: 'Job.html' }]);
    expect(dialog.result).toBe(false);
  });

  test('leaves out what is not wanted', async () => {
    const [, picture, contours] = screen.all<HTMLSelectElement>('select');
    await screen.choose(picture!, picture!.options[0]!.value);
    await screen.choose(contours!, contours!.options[0]!.value);
    for (const box of screen.all<HTMLInputElement>('input[type="checkbox"]')) await screen.tick(box);
    await screen.press(screen.one('view-download'));
    expect(body('writeClientView')).toMatchObject({ clouds: [], withLines: false, withPlaces: false });
    expect(Object.keys(body('writeClientView'))).not.toEqual(expect.arrayContaining(['pictureId']));
    expect(body('writeClientView')).not.toHaveProperty('contoursId');
  });

  test('by a link for some days, with a password where one is typed', async () => {
    const [, days] = screen.all<HTMLInputElement>('input[type="number"]');
    await screen.type(days!, '7');
    await screen.type('share-password', '  the old bridge ');
    await screen.press(screen.one('view-share'));
    expect(body('share')).toMatchObject({ days: 7, password: 'the old bridge', view: { surfaceId: 4 } });
    server.answer('share', {});
    expect(dialog.result).toBe(true);
  });

  test('without a password none is sent; without a title none either', async () => {
    await screen.type('view-title', '   ');
    await screen.press(screen.one('view-share'));
    expect(body('share')).not.toHaveProperty('password');
    expect(body('share')['view']).not.toHaveProperty('title');
  });

  test('while it is put together it cannot be asked for twice; a refusal is told', async () => {
    await screen.press(screen.one('view-download'));
    expect(screen.one<HTMLButtonElement>('view-share').disabled).toBe(true);
    server.refuse('writeClientView', 'The surface is too large for 20 MB.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('The surface is too large for 20 MB.');
    expect(screen.one<HTMLButtonElement>('view-download').disabled).toBe(false);
  });
});
