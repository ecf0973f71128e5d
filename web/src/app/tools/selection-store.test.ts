// @vitest-environment jsdom
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Shape } from '@pampero/core/selection';
import { Subject } from 'rxjs';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { LookStore } from '../state/look-store';
import { cloud, entry, run, storesOver, turn, workbench, type PretendServer } from '../stores.fixture';
import { DrawingLink } from '../viewer/drawing-link';
import { PatchStore } from './patch-store';
import { SelectionStore } from './selection-store';

/** What the drawing worker was told, in order. */
let told: string[];
let pictures$: Subject<unknown>;
let server: PretendServer;
let selection: SelectionStore;
let patches: PatchStore;
let job: JobStore;

const shape = (n: number): Shape => ({ kind: 'classes', classes: [n] });
const settle = async (): Promise<void> => {
  TestBed.inject(ApplicationRef).tick();
  await turn(5);
};
/** Answers the last count that was asked for. */
const counted = async (points: number): Promise<void> => {
  const call = server.made('countSelection').at(-1)!;
  call.answer.next({ points, classCounts: { '1': points } });
  call.answer.complete();
  await settle();
};

beforeEach(async () => {
  told = [];
  pictures$ = new Subject();
  const link = {
    pictures$,
    setSelection: () => told.push('selection'),
    showOptimistically: () => told.push('shown'),
    takeBack: () => told.push('taken back'),
  };
  ({ server } = storesOver(
    () => undefined,
    [JobStore, LayerStore, LookStore, SelectionStore, PatchStore, { provide: DrawingLink, useValue: link }],
  ));
  job = TestBed.inject(JobStore);
  job.workbench.set(workbench({ clouds: [cloud({ id: 1 })] }));
  selection = TestBed.inject(SelectionStore);
  patches = TestBed.inject(PatchStore);
  await settle();
});

describe('what is selected', () => {
  test('a new shape takes the place of what was selected; others add, take and keep', async () => {
    selection.draw(shape(1));
    selection.draw(shape(2));
    expect(selection.steps().map(({ how }) => how)).toEqual(['add']);
    selection.draw(shape(3), { as: 'add' });
    selection.draw(shape(4), { as: 'take' });
    selection.draw(shape(5), { as: 'keep' });
    selection.invert();
    expect(selection.steps().map(({ how }) => how)).toEqual(['add', 'add', 'take', 'keep', 'invert']);
    await settle();
  });

  test('keeping where nothing is selected keeps of all that is shown', () => {
    selection.draw(shape(1), { as: 'keep' });
    expect(selection.steps().map(({ how, shape: { kind } }) => [how, kind])).toEqual([
      ['add', 'all'],
      ['keep', 'classes'],
    ]);
  });

  test('what is selected now remembers what was shown then', () => {
    selection.draw(shape(1));
    TestBed.inject(LookStore).toggleClass(2);
    selection.draw(shape(1), { as: 'add' });
    expect(selection.steps().map(({ visible }) => visible.hiddenClasses)).toEqual([[], [2]]);
  });

  test('a shape that the server refuses goes again, and says why; what was selected before stays', async () => {
    selection.draw(shape(1));
    await settle();
    await counted(12);
    const before = selection.steps();
    selection.draw(shape(2), { as: 'add' });
    await settle();
    server.made('countSelection').at(-1)!.answer.error(new Error('The outline’s edges 1 and 3 cross each other.'));
    await settle();
    expect(selection.steps()).toBe(before);
    expect(selection.problem()).toMatch(/cross each other/);
  });

  test('only the last count counts: an answer that comes late is not taken for it', async () => {
    selection.draw(shape(1));
    await settle();
    const late = server.made('countSelection').at(-1)!;
    selection.draw(shape(2));
    await settle();
    await counted(7);
    late.answer.next({ points: 99, classCounts: {} });
    await settle();
    expect(selection.count()?.points).toBe(7);
  });

  test('classes that change under the selection are counted anew', async () => {
    selection.draw(shape(1));
    await settle();
    const before = server.made('countSelection').length;
    job.workbench.set(workbench({ clouds: [cloud({ id: 1, revision: 2 })] }));
    await settle();
    expect(server.made('countSelection')).toHaveLength(before + 1);
  });

  test('cleared, it can be selected again as it was', () => {
    selection.draw(shape(1));
    const steps = selection.steps();
    selection.clear();
    expect(selection.isEmpty()).toBe(true);
    selection.repeat();
    expect(selection.steps()).toEqual(steps);
  });
});

describe('what is done to it', () => {
  const select = async (): Promise<void> => {
    selection.draw(shape(1));
    await settle();
    await counted(3);
    told.length = 0;
  };

  test('nothing, where nothing is selected or the selection is empty: it is said', async () => {
    selection.setClass(2);
    expect(selection.problem()).toBe('Nothing is selected.');
    selection.draw(shape(1));
    await settle();
    await counted(0);
    selection.setClass(2);
    expect(selection.problem()).toBe('The selection holds no points.');
    expect(server.made('startOperation')).toEqual([]);
  });

  test('it is seen first and stored when the picture is there', async () => {
    await select();
    selection.setClass(2);
    expect(told).toEqual(['shown']);
    expect(server.made('startOperation')).toHaveLength(0);
    pictures$.next({});
    expect(server.made('startOperation')[0]!.given).toMatchObject({
      params: { operation: 'set-class' },
      body: { classCode: 2 },
    });
  });

  test('a page that draws no pictures stores all the same, a moment later', async () => {
    await select();
    selection.withhold();
    await turn(250);
    expect(server.made('startOperation')).toHaveLength(1);
  });

  test('what the server refuses at once is taken back in the view, with the reason', async () => {
    const { ApiError } = await import('../api/api-client');
    await select();
    selection.setClass(2);
    pictures$.next({});
    const problem = { code: 'x', title: '', status: 422, type: '', detail: 'No such class.' };
    server.made('startOperation')[0]!.answer.error(new ApiError(problem));
    await settle();
    expect(told).toContain('taken back');
    expect(selection.problem()).toBe('No such class.');
  });

  test('what fails while it is stored is taken back too; what was done is told', async () => {
    await select();
    selection.setClass(2);
    pictures$.next({});
    const { answer } = server.made('startOperation')[0]!;
    answer.next(run({ id: 'a', operation: 'set-class' }));
    answer.complete();
    job.ended$.next(run({ id: 'a', state: 'failed', outcome: 'The disk is full.' }));
    expect(told).toContain('taken back');
    expect(selection.problem()).toBe('The disk is full.');
    // The end of somebody else's run is none of its business.
    told.length = 0;
    job.ended$.next(run({ id: 'b', state: 'failed', outcome: 'Something else.' }));
    expect(told).toEqual([]);
  });

  test('what was done is told until it is taken back', async () => {
    await select();
    selection.setClass(2);
    pictures$.next({});
    const { answer } = server.made('startOperation')[0]!;
    answer.next(run({ id: 'a', operation: 'set-class' }));
    answer.complete();
    const book = (state: 'done' | 'undone') => {
      job.workbench.update((bench) => ({ ...bench!, history: { entries: [entry({ id: 7, operation: 'set-class', state })], undoes: null, redoes: null } })); // prettier-ignore
    };
    book('done');
    job.ended$.next(run({ id: 'a', state: 'done', outcome: '12 points to 2 Ground', historyId: 7 }));
    await settle();
    expect(selection.lastOutcome()).toBe('12 points to 2 Ground');
    book('undone');
    await settle();
    expect(selection.lastOutcome()).toBeUndefined();
  });

  test('focus shows nothing else, aside everything else', () => {
    selection.draw(shape(1));
    const steps = selection.steps();
    const look = TestBed.inject(LookStore);
    selection.focus();
    expect([look.focus(), selection.isEmpty()]).toEqual([steps, true]);
    selection.draw(shape(1));
    selection.setAside();
    expect(look.focus()!.map(({ how }) => how)).toEqual(['add', 'invert']);
  });
});

describe('a patch', () => {
  const point = { easting: 1, northing: 2, elevation: 3, classCode: 1, cloudId: 1, nodeId: 1, index: 0 };
  const grown = async (bits: string, isCut = false): Promise<void> => {
    const call = server.made('growPatch').at(-1)!;
    call.answer.next({ nodes: [{ nodeId: 5, bits }], points: 3, isCut });
    call.answer.complete();
    await settle();
  };

  test('grows with a rule in the job’s unit', async () => {
    job.workbench.set(workbench({ job: { id: 'job', name: 'Job', unit: 'us-survey-foot', crs: {} } as never }));
    await settle();
    // 0.8 m are 2.62 US survey feet (1200/3937 m each), to two figures.
    expect(patches.reach()).toBe(2.6);
    patches.touch(point, 'new');
    expect(server.made('growPatch')[0]!.given.body).toMatchObject({ seed: [1, 2, 3], reach: 2.6 });
  });

  test('grows anew as its rule changes, and only while nothing was selected since', async () => {
    patches.touch(point, 'new');
    await grown(btoa('\u0007'));
    expect(selection.steps()[0]!.shape).toEqual({ kind: 'points', nodes: [{ nodeId: 5, bits: Uint8Array.of(7) }] });
    patches.regrow();
    expect(server.made('growPatch')).toHaveLength(2);
    await grown(btoa('\u0003'), true);
    expect(selection.problem()).toMatch(/It was cut there/);
    selection.draw(shape(1), { as: 'add' });
    patches.regrow();
    expect(server.made('growPatch')).toHaveLength(2);
  });
});

test('the outline of the present selection counts before that of the one before', () => {
  const [first, second] = [[[0, 0], [9, 0], [9, 9]], [[1, 1], [2, 1], [2, 2]]] as const; // prettier-ignore
  selection.selectBoundary(first, 0, 'inside');
  selection.clear();
  expect(selection.planOutline()).toEqual(first);
  selection.selectBoundary(second, 0, 'inside');
  expect(selection.planOutline()).toEqual(second);
});
