// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, expect, test } from 'vitest';
import { ControlStore } from '../../state/control-store';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { storesOver, workbench } from '../../stores.fixture';
import { ToolGestures } from '../../tools/tool-gestures';
import { PlanMarks } from '../../viewer/plan-marks';
import { TargetStore } from './target-store';

let pick: (place: readonly [number, number, number]) => void;
let targets: TargetStore;
const numbers = (): string[] => [...targets.picked().keys()];

beforeEach(() => {
  const gestures = {
    onPoint: (tool: string, act: (point: unknown) => void) => {
      if (tool === 'targets') pick = ([easting, northing, elevation]) => act({ easting, northing, elevation });
    },
  };
  const points = ['T1', 'T2', 'T3'].map((number) => ({ number, role: 'control' }));
  storesOver(
    () => undefined,
    [
      JobStore,
      LayerStore,
      ViewStore,
      PlanMarks,
      TargetStore,
      { provide: ControlStore, useValue: { look: signal({ points }) } },
      { provide: ToolGestures, useValue: gestures },
    ],
  );
  TestBed.inject(JobStore).workbench.set(workbench({}));
  targets = TestBed.inject(TargetStore);
});

test('a target is picked by a click, then the next that is not picked yet waits, from the beginning again at the end', () => {
  targets.pick('T2');
  expect(TestBed.inject(ViewStore).tool()).toBe('targets');
  pick([1, 2, 3]);
  expect([numbers(), targets.waiting()]).toEqual([['T2'], 'T3']);
  pick([4, 5, 6]);
  expect(targets.waiting()).toBe('T1');
  pick([7, 8, 9]);
  expect(targets.picked().get('T1')).toEqual([7, 8, 9]);
  // All are picked: the tool is put down.
  expect([targets.waiting(), TestBed.inject(ViewStore).tool()]).toEqual([undefined, 'look']);
});

test('each is ringed in Plan where it was picked; dropped, its ring goes and it can be picked again', () => {
  targets.pick('T1');
  pick([10, 20, 30]);
  pick([40, 50, 60]);
  TestBed.tick();
  const rings = () => TestBed.inject(PlanMarks).all().map(({ kind, easting }) => [kind, easting]); // prettier-ignore
  expect(rings()).toEqual([['ring', 10], ['ring', 40]]); // prettier-ignore
  targets.drop('T1');
  TestBed.tick();
  expect([numbers(), rings()]).toEqual([['T2'], [['ring', 40]]]);
  targets.pick('T1');
  pick([11, 21, 31]);
  expect(targets.picked().get('T1')).toEqual([11, 21, 31]);
});

test('a click without a target that waits is for the first that is not picked; when all is cleared the tool goes', () => {
  TestBed.inject(ViewStore).tool.set('targets');
  pick([1, 1, 1]);
  expect(numbers()).toEqual(['T1']);
  targets.clear();
  expect([numbers(), TestBed.inject(ViewStore).tool()]).toEqual([[], 'look']);
});
