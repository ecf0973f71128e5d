// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { LookStore } from '../state/look-store';
import { ViewStore } from '../state/view-store';
import type { PretendServer } from '../stores.fixture';
import { MeasureStore } from '../tools/measure-store';
import { SelectionStore } from '../tools/selection-store';
import { ViewCameras } from '../viewer/view-cameras';
import { ViewMenuComponent } from './view-menu.component';

const cameras = {
  origin: signal([1000, 2000, 10]),
  plan: signal({ x: 5, y: 6, unitsPerPixel: 0.1, low: 0, high: 20 }),
  model: signal({ x: 1, y: 2, z: 3, distance: 50 }),
  reframeSection: vi.fn(),
  changed: vi.fn(),
  lookAt: vi.fn(),
};
const show = vi.fn();
const use = vi.fn();
let screen: Screen<ViewMenuComponent>;
let server: PretendServer;
let job: ReturnType<typeof openJob>['job'];

beforeEach(async () => {
  vi.clearAllMocks();
  cameras.origin.set([1000, 2000, 10]);
  ({ server, job } = openJob(
    {},
    {
      providers: [
        { provide: ViewCameras, useValue: cameras },
        { provide: MeasureStore, useValue: { show } },
        { provide: SelectionStore, useValue: { use } },
        { provide: MatDialog, useValue: { open: () => ({ afterClosed: () => of('From the south') }) } },
      ],
    },
  ));
  screen = await Screen.of(ViewMenuComponent);
});
const act = (does: 'keepView' | 'use', ...given: unknown[]): void =>
  (screen.component as unknown as Record<string, (...of: unknown[]) => void>)[does]!(...given);
const kept = () => server.calls.at(-1)!.given.body as { kind: string; name: string; look: Record<string, unknown> };

describe('what is kept in a job', () => {
  test('a view with its cameras, section, depth and hidden classes', () => {
    const views = TestBed.inject(ViewStore);
    views.section.set({ a: [0, 0], b: [10, 0] });
    views.sectionDepth.set(3);
    TestBed.inject(LookStore).hiddenClasses.set(new Set([7, 18]));
    act('keepView');
    expect(kept()).toMatchObject({ kind: 'view', name: 'From the south', look: { depth: 3, hiddenClasses: [7, 18], section: { b: [10, 0] }, plan: { x: 5 } } }); // prettier-ignore
  });

  test('a view comes back as it was, wherever the scene begins by now', () => {
    act('keepView');
    const { look } = kept();
    cameras.plan.set({ x: 0, y: 0, unitsPerPixel: 9, low: 0, high: 1 });
    // A cloud that came in since has moved the origin 100 to the west and 50 up.
    cameras.origin.set([900, 2000, 60]);
    act('use', { kind: 'view', body: { look } });
    expect(cameras.plan()).toEqual({ x: 105, y: 6, unitsPerPixel: 0.1, low: -50, high: -30 });
    expect(cameras.model()).toMatchObject({ x: 101, y: 2, z: -47 });
    expect(cameras.changed).toHaveBeenCalled();
  });

  test('a note is looked at, a measure shown with its tool in hand', () => {
    act('use', { kind: 'note', body: { place: [1, 2, 3] } });
    expect(cameras.lookAt).toHaveBeenCalledWith([1, 2, 3]);
    act('use', { kind: 'measure', body: { how: 'area', places: [[4, 5, 6], [7, 8, 9]] } }); // prettier-ignore
    expect(show).toHaveBeenCalledWith('area', [[4, 5, 6], [7, 8, 9]], undefined); // prettier-ignore
    expect(TestBed.inject(ViewStore).tool()).toBe('measure');
    expect(cameras.lookAt).toHaveBeenLastCalledWith([4, 5, 6]);
  });

  test('a selection comes back with the points it took one by one', () => {
    act('use', { kind: 'selection', body: { steps: [{ how: 'add', shape: { kind: 'points', nodes: [{ id: 1, bits: 'AQI=' }] } }] } }); // prettier-ignore
    const [steps] = use.mock.calls[0]! as [{ shape: { nodes: { bits: unknown }[] } }[]];
    expect(steps[0]!.shape.nodes[0]!.bits).not.toBe('AQI=');
  });

  test('is listed in groups, and removed without being used', async () => {
    job.workbench.update((bench) => ({ ...bench!, pins: [{ id: 1, kind: 'note', name: 'Old well', body: {} }, { id: 2, kind: 'view', name: 'From the south', body: {} }] as never })); // prettier-ignore
    await screen.press(screen.one('kept'));
    const menu = document.querySelector('.mat-mdc-menu-panel')!;
    expect([...menu.querySelectorAll('.group')].map(({ textContent }) => textContent)).toEqual(['Views', 'Notes']);
    menu.querySelector<HTMLElement>('[aria-label="Remove Old well"]')!.click();
    expect(server.calls.at(-1)).toMatchObject({ given: { params: { jobId: 'job', pinId: 1 } } });
    expect(cameras.lookAt).not.toHaveBeenCalled();
  });
});
