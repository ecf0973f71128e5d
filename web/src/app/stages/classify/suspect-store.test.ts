// @vitest-environment jsdom
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { SuspectAreaResource } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { PlanMarks } from '../../viewer/plan-marks';
import { DrawingLink } from '../../viewer/drawing-link';
import { SectionComparison } from '../../viewer/section-comparison';
import { ViewCameras } from '../../viewer/view-cameras';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { LookStore } from '../../state/look-store';
import { ViewStore } from '../../state/view-store';
import { cloud, run, storesOver, turn, workbench, type PretendServer } from '../../stores.fixture';
import { SuspectStore } from './suspect-store';

const square = (e: number): [number, number][] => [[e - 1, 9], [e + 1, 9], [e + 1, 11], [e - 1, 11]]; // prettier-ignore
const area = (kind: SuspectAreaResource['kind'], easting: number, size = 0.4): SuspectAreaResource => ({
  key: `${kind} ${easting}`,
  kind,
  easting,
  northing: 10,
  elevation: 15,
  width: 2,
  size,
  outline: square(easting),
  weight: 1,
});

let server: PretendServer;
let said: string[];
let suspects: SuspectStore;
let found: SuspectAreaResource[];
/** What the drawing worker was asked to mark. */
let marked: unknown[];
const settle = async (): Promise<void> => {
  TestBed.inject(ApplicationRef).tick();
  await turn(5);
};

beforeEach(async () => {
  found = [area('spike', 10), area('pit', 30), area('step', 50)];
  marked = [];
  const link = {
    ask: (_: string, about: { preview: unknown }) => {
      marked.push(about.preview);
      return Promise.resolve(about.preview ? { found: 1, places: [[10, 10, 15]] } : undefined);
    },
  };
  ({ server, said } = storesOver(
    (id) => (id === 'listSuspectAreas' ? found : id === 'pin' ? {} : undefined),
    [JobStore, LayerStore, LookStore, ViewStore, SectionComparison, ViewCameras, PlanMarks, SuspectStore, { provide: DrawingLink, useValue: link }], // prettier-ignore
  ));
  TestBed.inject(JobStore).workbench.set(workbench({ clouds: [cloud({ id: 4, classCounts: { '1': 5, '2': 5 } })] }));
  suspects = TestBed.inject(SuspectStore);
  suspects.isOpen.set(true);
  suspects.search();
  await settle();
});

describe('areas where the ground may be wrong', () => {
  test('are shown one by one, in Plan and in a section of their own, their points marked', () => {
    expect(suspects.current()?.key).toBe('spike 10');
    expect(suspects.open()).toBe(3);
    const { a, b } = TestBed.inject(ViewStore).section()!;
    expect([(a[0] + b[0]) / 2, a[1]]).toEqual([10, 10]);
    // Only ground points above the middle of the spike are wrong.
    expect(marked.at(-1)).toMatchObject({ cloudId: 4, filter: { kind: 'height-band', from: 14.8 }, leftOut: [1] });
    expect(TestBed.inject(LookStore).ringed()).toEqual([[10, 10, 15]]);
  });

  test('are walked forth and back, over those that have been looked at, round and round', () => {
    suspects.go(1);
    expect(suspects.current()?.kind).toBe('pit');
    suspects.accept();
    expect(suspects.current()?.kind).toBe('step');
    suspects.go(1);
    expect(suspects.current()?.kind).toBe('spike');
    suspects.go(-1);
    expect(suspects.current()?.kind).toBe('step');
  });

  test('one that is accepted is kept in the job, before the server has answered', () => {
    suspects.accept();
    expect(server.made('pin')[0]!.given.body).toEqual({ kind: 'accepted', name: 'spike 10', cloudId: 4 });
    expect(suspects.rows()![0]!.state).toBe('accepted');
    expect(suspects.open()).toBe(2);
  });

  test('one key takes the spike out of ground: those points, of that cloud, in its outline', () => {
    suspects.fix();
    const body = server.made('startOperation')[0]!.given.body as {
      selection: { shape: { kind: string } }[];
      classCode: number;
    };
    expect(body.classCode).toBe(1);
    expect(body.selection.map(({ shape }) => shape)).toEqual([
      { kind: 'boundary', corners: square(10), buffer: 0 },
      { kind: 'classes', classes: [2] },
      { kind: 'range', attribute: 'elevation', from: 14.8 },
    ]);
    expect(suspects.rows()![0]!.state).toBe('fixed');
    expect(suspects.current()?.kind).toBe('pit');
    suspects.fix();
    expect(server.made('startOperation')[1]!.given.body).toMatchObject({ classCode: 7 });
  });

  test('of a wall of 60 m ten metres about the place are marked and fixed: further on it has other heights', async () => {
    const outline = [[-20, 9], [40, 9], [40, 11], [-20, 11]] as [number, number][]; // prettier-ignore
    found = [{ ...area('step', 10, 1), outline, width: 60 }];
    suspects.search();
    await settle();
    expect(marked.at(-1)).toMatchObject({ region: { a: [0, 10], b: [20, 10], half: 1 } });
    suspects.fix();
    const { selection } = server.made('startOperation')[0]!.given.body as {
      selection: { how: string; shape: object }[];
    };
    expect(selection[0]).toMatchObject({ how: 'add', shape: { corners: outline } });
    expect(selection[1]).toMatchObject({
      how: 'keep',
      shape: { kind: 'boundary', corners: [[0, 9], [20, 9], [20, 11], [0, 11]] }, // prettier-ignore
    });
  });

  test('in a hole ground is looked for again, with smaller buildings and twice the tolerance', async () => {
    found = [area('hole', 10, 12)];
    suspects.search();
    await settle();
    suspects.fix();
    const proposal = server.made('proposeSettings')[0]!;
    proposal.answer.next({ parameters: { tolerance: 0.05, largestBuilding: 60 }, reasons: [] });
    const preview = server.made('previewGround')[0]!;
    expect(preview.given.body).toMatchObject({ parameters: { tolerance: 0.1, largestBuilding: 6 } });
    preview.answer.next({ gained: 0, lost: 0, nodes: [] });
    expect(said.at(-1)).toMatch(/Accept it to leave a hole/);
    expect(server.made('startOperation')).toHaveLength(0);
  });

  test('ground that was found anew is searched anew; another change makes the list old', async () => {
    const job = TestBed.inject(JobStore);
    job.ended$.next(run({ id: 'a', operation: 'find-water', state: 'done' }));
    expect(suspects.isOld()).toBe(true);
    job.ended$.next(run({ id: 'b', operation: 'find-ground', state: 'done' }));
    await settle();
    expect(server.made('listSuspectAreas')).toHaveLength(2);
    expect(suspects.isOld()).toBe(false);
  });

  test('what a fix of its own changes does not make the list old', () => {
    suspects.fix();
    TestBed.inject(JobStore).ended$.next(run({ id: 'a', operation: 'set-class', state: 'done' }));
    expect(suspects.isOld()).toBe(false);
  });

  test('when the list is left, nothing stays marked', async () => {
    suspects.isOpen.set(false);
    await settle();
    expect(marked.at(-1)).toBeUndefined();
    expect(TestBed.inject(LookStore).ringed()).toEqual([]);
  });

  test('when all have been looked at, it is said', () => {
    for (let k = 0; k < 3; k++) suspects.accept();
    expect(said.at(-1)).toBe('All areas have been looked at.');
  });
});
