// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { RendererStore } from '../state/renderer-store';
import { ViewStore } from '../state/view-store';
import { cloud, run, turn, type PretendServer } from '../stores.fixture';
import { DrawingLink } from '../viewer/drawing-link';
import { FootLineComponent } from './foot-line.component';

let screen: Screen<FootLineComponent>;
let views: ViewStore;
let server: PretendServer;
let job: ReturnType<typeof openJob>['job'];
let details: unknown;
const painter = signal('processor');
const point = { cloudId: 1, nodeId: 1, index: 3, classCode: 2 };

beforeEach(async () => {
  details = undefined;
  painter.set('processor');
  ({ server, job } = openJob(
    { clouds: [cloud({ id: 1, pointCount: 1_471_588 })] },
    {
      providers: [
        { provide: RendererStore, useValue: { painter, choice: signal('automatic'), renderer: signal(null) } },
        { provide: DrawingLink, useValue: { ask: () => Promise.resolve(details) } },
      ],
    },
  ));
  views = TestBed.inject(ViewStore);
  screen = await Screen.of(FootLineComponent);
});
const plain = (text: string): string => text.replace(/[\u202f\u2009\u00a0]/g, ' ').replace(/\u2002/g, ' | ');
const place = (): string => plain(screen.one('cursor').textContent);
const under = async (what: Parameters<ViewStore['cursor']['set']>[0]): Promise<void> => {
  views.cursor.set(what);
  await screen.settled();
};

describe('the foot line', () => {
  test('away from the views it names the system and unit; over them where the cursor is', async () => {
    expect(place()).toBe('EPSG:5347, m');
    await under({ easting: 5_512_345.678, northing: 6_150_001.5 } as never);
    expect(place()).toBe('5 512 345.68 E | 6 150 001.50 N');
    await under({ easting: 5_512_345.678, northing: 6_150_001.5, elevation: 31.2345, point } as never);
    expect(place()).toBe('5 512 345.678 E | 6 150 001.500 N | 31.235 m');
  });

  test('says the class of the point, and all else that is known of it once the cursor rests', async () => {
    details = {
      flags: 4 | 8, intensity: 700, returnNumber: 1, returns: 3, scanAngle: -12.25, strip: 4, gpsTime: 100.5,
      accuracy: 0.012, rgb: [1, 2, 3],
    }; // prettier-ignore
    await under({ easting: 1, northing: 2, elevation: 3, point } as never);
    expect(screen.text).toContain('Ground');
    expect(screen.text).not.toContain('intensity');
    await turn(320);
    await screen.settled();
    expect(plain(screen.text)).toContain(
      'Ground, return 1 of 3, intensity 700, strip 4, -12.3°, 100.500 s, accuracy 0.012, RGB 1 2 3, withheld, overlap',
    );
  });

  test('a cursor that has gone on leaves no word of the point before', async () => {
    details = { flags: 0, intensity: 700 };
    await under({ easting: 1, northing: 2, elevation: 3, point } as never);
    await under(undefined);
    await turn(320);
    await screen.settled();
    expect(screen.text).not.toContain('intensity');
  });

  test('over a surface: its elevation and slope, and how far from the last vertex', async () => {
    views.underCursor.set({ elevation: 30.5, slope: 0.125, from: { distance: 20, rise: -1 } } as never);
    await screen.settled();
    expect(plain(screen.text)).toContain('Surface 30.500 m, slope 12.5 %, 20.00 m and -5.0 % from the last vertex');
    views.underCursor.set({ slope: 0 } as never);
    await screen.settled();
    expect(screen.text).toContain('No surface here');
  });

  test('how much is drawn, and by what', async () => {
    views.drawnPoints.set(250_000);
    await screen.settled();
    expect(plain(screen.one('painter').textContent)).toContain('250 000 of 1 471 588 points drawn');
    painter.set('graphics');
    await screen.settled();
    expect(screen.one('painter').textContent).toContain(', by the graphics card');
    job.workbench.update((bench) => ({ ...bench!, clouds: [], comingIn: [cloud({ id: 2 })] }));
    await screen.settled();
    expect(screen.one('painter').textContent).toContain('points drawn, more coming in');
  });

  test('what is running, how far, how long yet; and it can be cancelled', async () => {
    expect(screen.has('cancel-run')).toBe(false);
    job.runs.set([run({ id: 'r7', title: 'Find ground', step: 'Looking again', progress: 0.424, secondsLeft: 75 })]);
    await screen.settled();
    expect(screen.text).toContain('Find ground: looking again');
    expect(screen.one('[role="progressbar"]').getAttribute('aria-valuenow')).toBe('42');
    expect(plain(screen.text)).toMatch(/42 %, .*left/);
    await screen.press(screen.one('cancel-run'));
    expect(server.calls.at(-1)).toMatchObject({ id: 'cancelRun', given: { params: { jobId: 'job', runId: 'r7' } } });
  });
});
