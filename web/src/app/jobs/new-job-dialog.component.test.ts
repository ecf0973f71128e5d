// @vitest-environment jsdom
import { PretendDialog, Screen } from '../screen.fixture';
import type { CrsEntry, NewJob } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { storesOver, type PretendServer } from '../stores.fixture';
import { NewJobDialogComponent } from './new-job-dialog.component';

let screen: Screen<NewJobDialogComponent>;
let dialog: PretendDialog<NewJob>;
let server: PretendServer;
const entry = { epsg: 2277, name: 'NAD83 / Texas Central (ftUS)', unit: 'us-survey-foot' } as CrsEntry;

beforeEach(async () => {
  dialog = new PretendDialog<NewJob>();
  ({ server } = storesOver(() => undefined, dialog.over()));
  screen = await Screen.of(NewJobDialogComponent);
});
const name = (text: string): Promise<void> => screen.type('job-name', text);
const choose = async (crs: CrsEntry | undefined): Promise<void> => {
  (screen.component as unknown as { crs: { set(value: unknown): void } }).crs.set(crs);
  await screen.settled();
};

describe('a new job', () => {
  test('needs a name: without one, or with blanks, it is asked for and nothing is made', async () => {
    await screen.press('Create job');
    expect(screen.text).toContain('Give the job a name.');
    await name('   ');
    await screen.press('Create job');
    expect(dialog.isClosed).toBe(false);
  });

  test('without a system is local, in metres', async () => {
    expect(screen.text).toContain('Leave empty for a local system.');
    await name('  North bank ');
    await screen.press('Create job');
    expect(dialog.result).toEqual({ name: 'North bank', unit: 'metre' });
  });

  test('takes the unit of its system, and says so', async () => {
    await name('Creek');
    await choose(entry);
    expect(screen.text).toMatch(/In US survey f.*; the job’s unit follows it\./);
    expect(screen.one('job-unit').getAttribute('aria-disabled')).toBe('true');
    await screen.press('Create job');
    expect(dialog.result).toEqual({ name: 'Creek', unit: 'us-survey-foot', epsg: 2277 });
  });

  test('once the system is taken away again the unit can be chosen', async () => {
    await choose(entry);
    await choose(undefined);
    expect(screen.one('job-unit').getAttribute('aria-disabled')).not.toBe('true');
  });

  test('a definition of one’s own goes along, but not beside a system', async () => {
    const own = screen.one<HTMLInputElement>('textarea');
    await name('Local');
    await screen.type(own, ' +proj=tmerc +lon_0=-60 ');
    await screen.press('Create job');
    expect(dialog.result).toMatchObject({ definition: '+proj=tmerc +lon_0=-60' });
    await choose(entry);
    await screen.press('Create job');
    expect(dialog.result).not.toHaveProperty('definition');
  });

  test('asks the server of nothing before something is typed', () => {
    expect(server.calls).toEqual([]);
  });
});
