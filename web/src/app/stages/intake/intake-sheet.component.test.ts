// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { MatDialog } from '@angular/material/dialog';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import type { JobStore } from '../../state/job-store';
import { ControlStore } from '../../state/control-store';
import { cloud, type PretendServer } from '../../stores.fixture';
import { PictureStore } from '../../viewer/picture-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { IntakeSheetComponent } from './intake-sheet.component';

const open = vi.fn((..._: unknown[]) => ({ afterClosed: () => of(undefined) }));
let screen: Screen<IntakeSheetComponent>;
let server: PretendServer;
let job: JobStore;

const show = async (bench: Parameters<typeof openJob>[0], isSet = true): Promise<void> => {
  ({ server, job } = openJob(bench, {
    answers: (id) => (id === 'listFolder' ? { isSet, entries: [] } : undefined),
    providers: [
      { provide: MatDialog, useValue: { open } },
      { provide: ControlStore, useValue: { look: () => undefined, isLooking: () => false } },
      { provide: PictureStore, useValue: { pictures: () => [] } },
      { provide: ViewCameras, useValue: {} },
    ],
  }));
  screen = await Screen.of(IntakeSheetComponent);
};
beforeEach(() => vi.clearAllMocks());

describe('Intake', () => {
  test('says how many points there are, how dense, and how many warnings', async () => {
    await show({
      clouds: [
        cloud({ id: 1, pointCount: 120_000, warnings: [{ code: 'bounds-lie', message: 'The header’s bounds are not those of the points.' }] }),
        cloud({ id: 2, pointCount: 80_000 }),
      ],
    }); // prettier-ignore
    expect(screen.texts('.figures .num')).toEqual(['200 000', '10.0', '1']);
    expect(screen.text).toContain('The header’s bounds are not those of the points.');
    expect(screen.has('square')).toBe(false);
    expect(server.made('listFolder').length).toBe(1);
    expect(job.clouds().length).toBe(2);
  });

  test('has no figure for density where there is no cloud', async () => {
    await show({});
    expect(screen.texts('.figures .num')).toEqual(['0', '–', '0']);
  });

  test('offers the server’s folder only where there is one', async () => {
    await show({}, false);
    expect(screen.texts('button').some((text) => text.includes('folder'))).toBe(false);
    await show({}, true);
    await screen.press('From the server’s folder');
    expect(open).toHaveBeenCalledTimes(1);
  });

  test('says which square of a larger site the job is', async () => {
    await show({
      job: { id: 'job', name: '5512000_6150000', unit: 'metre', crs: {}, square: { land: { west: 5_512_000, south: 6_150_000, east: 5_513_000, north: 6_151_000 }, side: 1000, margin: 60 } } as never,
    }); // prettier-ignore
    const told = screen.one('square').textContent!.replace(/\s+/g, ' ');
    for (const words of ['a square of a larger site', '5 512 000 to 5 513 000', '6 150 000 to 6 151 000', '60 m'])
      expect(told).toContain(words);
  });
});
