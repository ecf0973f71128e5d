// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { ViewStore } from '../../state/view-store';
import { cloud, type PretendServer } from '../../stores.fixture';
import { SelectionStore } from '../../tools/selection-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { ObjectListComponent } from './object-list.component';

const cameras = { frameSectionOn: vi.fn(), lookClose: vi.fn() };
const use = vi.fn();
const house = { classCode: 6, confidence: 0.61, easting: 500, northing: 200, elevation: 30, height: 4.2, width: 12, area: 96, points: 1234, footprint: [[490, 195], [510, 195], [510, 205]] }; // prettier-ignore
const tree = { ...house, classCode: 5, confidence: 0.93, width: 3, height: 9 };
let screen: Screen<ObjectListComponent>;
let server: PretendServer;
const open = async (unit = 'metre'): Promise<void> => {
  vi.clearAllMocks();
  ({ server } = openJob(
    { clouds: [cloud({ id: 1 }), cloud({ id: 4 })], job: { id: 'job', name: 'Job', unit, crs: {} } as never },
    {
      providers: [
        { provide: ViewCameras, useValue: cameras },
        { provide: SelectionStore, useValue: { use } },
      ],
    },
  ));
  screen = await Screen.of(ObjectListComponent);
};
beforeEach(() => open());

describe('what stands on the ground', () => {
  test('is listed when it is asked for, of the newest cloud, and counted by class', async () => {
    expect(screen.text).toContain('Buildings, trees and wires one by one, the least certain first');
    await screen.press('List them');
    expect(server.made('listObjects')[0]!.given.params).toEqual({ jobId: 'job', cloudId: 4 });
    expect(screen.one<HTMLButtonElement>('list-objects').disabled).toBe(true);
    server.answer('listObjects', [house, tree, tree]);
    await screen.settled();
    expect(screen.one('object-count').textContent).toBe('1 building, 2 high vegetation');
    expect(screen.texts('button')).toContain('List again');
  });

  test('nothing there is told as such, and a fault in its own words', async () => {
    await screen.press('List them');
    server.answer('listObjects', []);
    await screen.settled();
    expect(screen.one('object-count').textContent).toBe('There is nothing on the ground here.');
    await screen.press('List again');
    server.refuse('listObjects', 'Find the ground first.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('Find the ground first.');
    expect(screen.one<HTMLButtonElement>('list-objects').disabled).toBe(false);
  });

  test('one that is shown lies in the middle of a section across it, and its points are selected', async () => {
    await screen.press('List them');
    server.answer('listObjects', [house]);
    await screen.settled();
    const component = screen.component as unknown as { show(group: unknown): void };
    component.show(house);
    const views = TestBed.inject(ViewStore);
    // Twice its width: 24 m, a third of it deep.
    expect(views.section()).toEqual({ a: [488, 200], b: [512, 200] });
    expect(views.sectionDepth()).toBe(4);
    expect(cameras.frameSectionOn).toHaveBeenCalledWith(32.1, 4.2);
    expect(use.mock.calls[0]![0]).toMatchObject([
      { how: 'add', shape: { kind: 'boundary', corners: house.footprint }, visible: { clouds: [4] } },
      { how: 'keep', shape: { kind: 'classes', classes: [6] } },
    ]);
  });

  test('a small or a huge one is shown in a window that can be read, in feet as in metres', async () => {
    const show = (width: number): number => {
      (screen.component as unknown as { show(group: unknown): void }).show({ ...house, width });
      const { a, b } = TestBed.inject(ViewStore).section()!;
      return b[0] - a[0];
    };
    expect([show(1), show(5000)]).toEqual([20, 200]);
    await open('international-foot');
    expect(show(1)).toBeCloseTo(20 / 0.3048, 6);
    expect(show(5000)).toBeCloseTo(200 / 0.3048, 6);
  });
});
