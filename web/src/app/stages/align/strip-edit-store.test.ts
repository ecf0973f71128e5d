// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { ApiError } from '../../api/api-client';
import type { Product } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { LookStore } from '../../state/look-store';
import { ViewStore } from '../../state/view-store';
import { cloud, run, storesOver, surface, turn, workbench, type PretendServer } from '../../stores.fixture';
import { ToolGestures } from '../../tools/tool-gestures';
import { PlanMarks } from '../../viewer/plan-marks';
import { ViewCameras } from '../../viewer/view-cameras';
import { StripEditStore } from './strip-edit-store';

class PretendGestures {
  click: ((place: readonly [number, number]) => void) | undefined;
  onClick(tool: string, does: (place: readonly [number, number]) => void): void {
    if (tool === 'strips') this.click = does;
  }
}

/** A flight along the eastings: a unit a second, from 0 to 100, on the adjusted clock. */
const BEGIN = 300_000_000;
const flight = {
  features: [
    {
      geometry: { coordinates: Array.from({ length: 11 }, (_, k) => [10 * k, 0, 80]) },
      properties: { time: Array.from({ length: 11 }, (_, k) => BEGIN + 10 * k) },
    },
  ],
};
const product = (id: number, kind: string, facts: object, parameters: object = {}): Product =>
  surface(id, { kind, facts, parameters, seriesId: id } as never);
const strips = product(
  7,
  'strips',
  {
    cloudId: 1,
    by: 'time',
    strips: [
      { number: 1, name: '1', from: BEGIN, to: BEGIN + 30, points: 10, isLeftOut: false },
      { number: 2, name: '2', from: BEGIN + 60, to: BEGIN + 90, points: 10, isLeftOut: false },
    ],
    unassigned: 0,
  },
  { trajectory: 5 },
);
const trajectory = product(5, 'trajectory', { clock: 'adjusted', start: BEGIN, end: BEGIN + 100 });

let server: PretendServer;
let edits: StripEditStore;
let gestures: PretendGestures;
let refusal: string | undefined;
const clickAt = async (e: number, n = 0): Promise<void> => {
  gestures.click!([e, n]);
  TestBed.tick();
  await turn(5);
};
const told = (): string[] =>
  (edits.draft() ?? []).map(
    ({ name, from, to }) => `${name} ${(from! - BEGIN).toFixed(0)}–${(to! - BEGIN).toFixed(0)}`,
  );

beforeEach(async () => {
  refusal = undefined;
  gestures = new PretendGestures();
  ({ server } = storesOver(
    (id) => {
      if (id === 'showProduct') return new TextEncoder().encode(JSON.stringify(flight)).buffer;
      if (id === 'startOperation' && !refusal) return run({ id: 'r1', operation: 'set-strips' });
      return undefined;
    },
    [
      JobStore,
      LayerStore,
      LookStore,
      ViewStore,
      StripEditStore,
      PlanMarks,
      { provide: ViewCameras, useValue: { plan: signal({ unitsPerPixel: 0.1 }) } },
      { provide: ToolGestures, useValue: gestures },
    ],
  ));
  const job = TestBed.inject(JobStore);
  job.jobId.set('job');
  job.workbench.set(
    workbench({
      clouds: [cloud({ id: 1, isStandardGpsTime: true, columns: { gpsTime: true } as never })],
      products: [trajectory, strips],
    }),
  );
  edits = TestBed.inject(StripEditStore);
  edits.edit();
  TestBed.tick();
  await turn(20);
});

describe('strips that are edited', () => {
  test('begin as they were found, with the tool in hand and the trajectory in their colours', () => {
    expect(told()).toEqual(['1 0–30', '2 60–90']);
    expect(TestBed.inject(ViewStore).tool()).toBe('strips');
    const look = TestBed.inject(LookStore);
    expect(look.flightColour()).toBe('strip');
    expect(look.strips().map(({ name }) => name)).toEqual(['1', '2']);
  });

  test('are drawn by two clicks on the trajectory, either way round; a dot shows the first', async () => {
    await clickAt(55, 2);
    expect(edits.begun()).toMatchObject({ easting: 55, northing: 0, time: BEGIN + 55 });
    expect(TestBed.inject(PlanMarks).all()).toMatchObject([{ kind: 'dot', easting: 55 }]);
    await clickAt(40, -1);
    expect(told()).toEqual(['1 0–30', '3 40–55', '2 60–90']);
    expect(TestBed.inject(PlanMarks).all()).toEqual([]);
    // The cloud and the trajectory follow while nothing is kept yet.
    expect(TestBed.inject(LookStore).strips()).toHaveLength(3);
  });

  test('are split at a click; between strips there is nothing to split', async () => {
    edits.click.set('split');
    await clickAt(10);
    expect(told()).toEqual(['1 0–10', '3 10–30', '2 60–90']);
    await clickAt(45);
    expect(edits.fault()).toBe('No strip runs there. Click one to split it.');
    expect(told()).toHaveLength(3);
  });

  test('a click beside the trajectory, and one where the strip begins, are told', async () => {
    await clickAt(50, 30);
    expect(edits.fault()).toMatch(/The trajectory is 30 m away/);
    expect(edits.begun()).toBeUndefined();
    await clickAt(50);
    await clickAt(50);
    expect(edits.fault()).toMatch(/Its end lies where it begins/);
    expect(told()).toEqual(['1 0–30', '2 60–90']);
  });

  test('are kept with their names; what the server refuses stays to be put right', async () => {
    edits.change(0, { name: ' north bank ' });
    edits.change(1, { isLeftOut: true });
    edits.keep();
    const [call] = server.made('startOperation');
    expect(call!.given.params).toEqual({ jobId: 'job', operation: 'set-strips' });
    expect(call!.given.body).toMatchObject({
      cloud: 1,
      trajectory: 5,
      strips: [
        { name: 'north bank', isLeftOut: false },
        { name: '2', isLeftOut: true },
      ],
    });
    expect(edits.draft()).toBeUndefined();
    expect(TestBed.inject(ViewStore).tool()).toBe('look');

    edits.edit();
    refusal = 'refused';
    edits.keep();
    server
      .made('startOperation')
      .at(-1)!
      .answer.error(
        new ApiError({ title: '', status: 400, detail: 'Two strips overlap in time.', code: 'x' } as never),
      );
    await turn(5);
    expect(edits.fault()).toBe('Two strips overlap in time.');
    expect(told()).toHaveLength(2);
  });

  test('without strips that were found they are the point source IDs, which are named and left out alone', () => {
    edits.leave();
    TestBed.inject(JobStore).workbench.set(
      workbench({ clouds: [cloud({ id: 1, source: { strips: [11, 12] } as never })], products: [] }),
    );
    edits.edit();
    expect(edits.draft()).toEqual([
      { name: '11', sourceId: 11, isLeftOut: false },
      { name: '12', sourceId: 12, isLeftOut: false },
    ]);
    expect(edits.isTimed()).toBe(false);
    expect(TestBed.inject(ViewStore).tool()).toBe('look');
  });
});
