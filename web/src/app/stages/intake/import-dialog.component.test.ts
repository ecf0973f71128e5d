// @vitest-environment jsdom
import { PretendDialog, Screen } from '../../screen.fixture';
import { Component, input } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { FileLook } from '@pampero/contract';
import { Subject } from 'rxjs';
import { beforeEach, describe, expect, test } from 'vitest';
import { FileSender, type Sending } from '../../api/file-sender';
import { JobStore } from '../../state/job-store';
import { cloud, storesOver, workbench, type PretendServer } from '../../stores.fixture';
import { ExtentMapComponent } from './extent-map.component';
import { ImportDialogComponent } from './import-dialog.component';

@Component({ selector: 'pam-extent-map', template: '' })
class PretendMapComponent {
  readonly file = input<unknown>();
  readonly clouds = input<unknown>();
}

const look = (facts: Partial<FileLook> = {}): FileLook => ({
  fileName: 'strip.las', fileBytes: 1000, format: 'LAS 1.4, points 6', pointCount: 1_471_588, sampledPoints: 0, attributes: ['GPS time', 'returns'],
  bounds: { min: [5_512_000, 6_150_000, 20.5], max: [5_512_500, 6_150_350, 34.25] }, findings: [], ...facts,
}); // prettier-ignore
let screen: Screen<ImportDialogComponent>;
let server: PretendServer;
let dialog: PretendDialog<readonly Record<string, unknown>[]>;
let sending: Subject<Sending>[];

async function open(sources: readonly unknown[]): Promise<void> {
  dialog = new PretendDialog();
  sending = [];
  const send = (): Subject<Sending> => {
    const one = new Subject<Sending>();
    sending.push(one);
    return one;
  };
  let store: JobStore | undefined;
  const data = { sources, get store() { return (store ??= opened()); } }; // prettier-ignore
  const opened = (): JobStore => {
    const job = TestBed.inject(JobStore);
    job.jobId.set('job');
    job.workbench.set(workbench({ clouds: [cloud({ id: 1 })] }));
    return job;
  };
  ({ server } = storesOver(
    (id) => (id === 'listGeoids' ? [{ name: 'made-up.gtx' }] : undefined),
    [JobStore, { provide: FileSender, useValue: { send } }, ...dialog.over(data)],
  ));
  TestBed.overrideComponent(ImportDialogComponent, {
    remove: { imports: [ExtentMapComponent] },
    add: { imports: [PretendMapComponent] },
  });
  screen = await Screen.of(ImportDialogComponent);
}
const answer = async (facts: Partial<FileLook> = {}): Promise<void> => {
  server.answer('lookAtFile', look(facts));
  await screen.settled();
};
const canImport = (): boolean => !screen.one<HTMLButtonElement>('import-now').disabled;
const plain = (text: string): string => text.replace(/[\u202f\u2009\u00a0]/g, ' ');

describe('a file from the server’s folder', () => {
  beforeEach(() => open([{ folderPath: 'flights/strip.las', bytes: 25_000_000 }]));

  test('is looked at before it comes in, and told with what it says of itself', async () => {
    expect([screen.text, canImport()]).toEqual([expect.stringContaining('Reading …'), false]);
    await answer();
    const text = plain(screen.text);
    for (const told of ['strip.las', 'LAS 1.4, points 6', '1 471 588', 'none stated', '5 512 000.0 to 5 512 500.0', '20.50 to 34.25', 'GPS time, returns']) expect(text).toContain(told); // prettier-ignore
    expect(canImport()).toBe(true);
    await screen.press('Import the cloud');
    expect(dialog.result).toEqual([{ file: { folderPath: 'flights/strip.las' }, coordinates: 'moved', heights: { shift: 0 } }]); // prettier-ignore
  });

  test('what looks wrong is told, and opens what could mend it', async () => {
    await answer({ findings: [{ level: 'warning', message: 'It lies 400 km from the clouds of the job.' }, { level: 'note', message: 'It has no colour.' }] as never }); // prettier-ignore
    expect(screen.texts('[data-testid="pending-finding"]')).toEqual(['It lies 400 km from the clouds of the job.', 'It has no colour.']); // prettier-ignore
    expect(screen.one<HTMLDetailsElement>('details').open).toBe(true);
  });

  test('its numbers may be taken as they are, heights moved and from a geoid', async () => {
    await answer();
    const kept = screen.all<HTMLInputElement>('input[type="checkbox"]').at(-1)!;
    await screen.tick(kept);
    await screen.choose('file-geoid', 'made-up.gtx');
    await screen.type('file-shift', '-25 cm');
    await screen.press('Import the cloud');
    expect(dialog.result![0]).toMatchObject({ coordinates: 'kept', heights: { shift: -0.25, geoid: 'made-up.gtx' } });
  });

  test('what cannot be read is told with its file, and nothing comes in', async () => {
    await answer();
    await screen.tick(screen.one('system-own'));
    await answer();
    await screen.press('Import the cloud');
    expect(screen.one('[role="alert"]').textContent).toBe('strip.las: Type the PROJ string of its custom system.');
    await screen.type('own-definition', '+proj=tmerc +lon_0=-60 +ellps=intl');
    await screen.type('[aria-label="Seven parameters to WGS 84"]', '-148 136 90');
    await answer();
    await screen.press('Import the cloud');
    expect(screen.one('[role="alert"]').textContent).toMatch(/^strip\.las: “-148 136 90” are not seven parameters\./);
    expect(dialog.isClosed).toBe(false);
  });

  test('scans that lie far apart may stay out', async () => {
    await answer({ scansApart: [{ number: 3, name: 'Tower' }] as never });
    await screen.tick(screen.one('leave-out-scan-3'));
    expect(server.made('lookAtFile').at(-1)!.given.body).toMatchObject({ leaveOutScans: [3] });
    await answer({ scansApart: [{ number: 3, name: 'Tower' }] as never });
    await screen.press('Import the cloud');
    expect(dialog.result![0]).toMatchObject({ leaveOutScans: [3] });
  });

  test('one that is no cloud is told in its own words and cannot come in; left out, the dialog closes', async () => {
    server.refuse('lookAtFile', 'strip.las is no LAS file: it begins with “PK”.');
    await screen.settled();
    expect(screen.one('pending-problem').textContent).toBe('strip.las is no LAS file: it begins with “PK”.');
    expect(canImport()).toBe(false);
    await screen.press('Leave out strip.las');
    expect([dialog.isClosed, dialog.result]).toEqual([true, undefined]);
  });
});

describe('files of this machine', () => {
  beforeEach(() => open([new File(['x'], 'a.laz'), new File(['y'], 'b.laz')]));

  test('are sent first, each with how far it is, and come in together once all were looked at', async () => {
    sending[0]!.next({ sent: 0.42 });
    await screen.settled();
    expect(screen.text).toContain('sending, 42 %');
    sending[0]!.next({ sent: 1, uploadId: 'up-a' });
    await answer({ fileName: 'a.laz' });
    // The other is still on its way.
    expect(canImport()).toBe(false);
    sending[1]!.next({ sent: 1, uploadId: 'up-b' });
    await answer({ fileName: 'b.laz' });
    await screen.press('Import 2 clouds');
    expect(dialog.result!.map(({ file }) => file)).toEqual([
      { uploadId: 'up-a', fileName: 'a.laz' },
      { uploadId: 'up-b', fileName: 'b.laz' },
    ]);
  });

  test('one that fails does not hold up the other', async () => {
    sending[0]!.error(new Error('The connection was lost.'));
    sending[1]!.next({ sent: 1, uploadId: 'up-b' });
    await answer({ fileName: 'b.laz' });
    expect(screen.one('pending-problem').textContent).toBe('The connection was lost.');
    await screen.press('Import the cloud');
    expect(dialog.result).toHaveLength(1);
  });
});
