// @vitest-environment jsdom
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Product, Proposal } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { ApiError } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { LookStore } from '../../state/look-store';
import { ViewStore } from '../../state/view-store';
import { cloud, storesOver, turn, workbench, type PretendServer } from '../../stores.fixture';
import type { LineLayer } from '../../viewer/picture-sink';
import { SectionComparison } from '../../viewer/section-comparison';
import { SceneLines } from '../../viewer/scene-lines';
import { ViewCameras } from '../../viewer/view-cameras';
import { ProposalStore } from './proposal-store';

const found = (north: number, state: Proposal['state'] = 'waiting'): Proposal => ({
  strands: {
    top: [
      [0, north, 12],
      [50, north, 12],
      [100, north, 12],
    ],
    toe: [
      [0, north + 5, 10],
      [100, north + 5, 10],
    ],
  },
  isClosed: false,
  length: 100,
  residual: 0.02,
  strength: 1,
  agree: 0.9,
  bridged: [],
  state,
});
const set = (id: number): Product =>
  ({ id, seriesId: id, kind: 'proposals', name: 'Banks', operation: 'find-breaks', parameters: {}, inputs: [], isStale: false, madeAt: '2026-01-01T00:00:00.000Z', facts: { kind: 'bank', proposed: 4 } }) as unknown as Product; // prettier-ignore

let all: Proposal[];
let server: PretendServer;
let said: string[];
let store: ProposalStore;
let drawn: Map<string, LineLayer | undefined>;
const settle = async (): Promise<void> => {
  TestBed.inject(ApplicationRef).tick();
  await turn(5);
  TestBed.inject(ApplicationRef).tick();
};
/** Pieces of lines that are drawn of a layer: a start and an end each. */
const pieces = (key: string): number => (drawn.get(key)?.positions.length ?? 0) / 6;

beforeEach(async () => {
  all = [found(10), found(20), found(30, 'accepted'), found(40)];
  drawn = new Map();
  ({ server, said } = storesOver(
    (id) => (id === 'showProduct' ? new TextEncoder().encode(JSON.stringify(all)).buffer : undefined),
    [JobStore, LayerStore, LookStore, ViewStore, SectionComparison, ViewCameras, SceneLines, ProposalStore],
  ));
  TestBed.inject(SceneLines).changes$.subscribe(({ key, layer }) => drawn.set(key, layer));
  TestBed.inject(JobStore).workbench.set(workbench({ clouds: [cloud({ id: 1 })], products: [set(6)] }));
  store = TestBed.inject(ProposalStore);
  await settle();
});

describe('proposals', () => {
  test('are read with the newest set, and those that wait are drawn', () => {
    expect(server.made('showProduct').map(({ given }) => given.params?.['productId'])).toEqual([6]);
    expect(store.proposals().map(({ number, state }) => `${number} ${state}`)).toEqual(['0 waiting', '1 waiting', '2 accepted', '3 waiting']); // prettier-ignore
    expect(store.waiting().map(({ number }) => number)).toEqual([0, 1, 3]);
    // Two legs along the top, one along the toe.
    expect(pieces('proposals')).toBe(3 * 3);
  });

  test('have the codes that their kind gives to each strand', () => {
    expect(store.codesOf(store.proposals()[0]!)).toEqual(['BANK-TOP', 'BANK-TOE']);
  });

  test('are walked round, past those that were judged; the one that is looked at stands out with a section across it', async () => {
    const walked = [1, 1, 1, 1, -1].map((by) => {
      store.go(by as 1 | -1);
      return store.current();
    });
    expect(walked).toEqual([0, 1, 3, 0, 3]);
    await settle();
    expect([pieces('proposals'), pieces('proposal-current')]).toEqual([6, 3]);
    const { a, b } = TestBed.inject(ViewStore).section()!;
    // Across its middle vertex, square to it, four units to either side.
    expect([a, b]).toEqual([
      [50, 44],
      [50, 36],
    ]);
  });

  test('one is accepted with a key: it is sent, waits no more at once, and the next is shown', async () => {
    store.show(1);
    store.judge('accept');
    expect(server.made('startOperation').map(({ given }) => [given.params?.['operation'], given.body])).toEqual([['judge-proposals', { proposalsId: 6, accept: [1] }]]); // prettier-ignore
    expect(store.proposals()[1]!.state).toBe('accepted');
    expect(store.current()).toBe(3);
    store.judge('refuse');
    expect(server.made('startOperation').at(-1)!.given.body).toEqual({ proposalsId: 6, refuse: [3] });
    expect(store.waiting().map(({ number }) => number)).toEqual([0]);
    await settle();
    expect(pieces('proposals') + pieces('proposal-current')).toBe(3);
  });

  test('several at once, of which those that were judged are left out; nothing is sent where none is left', () => {
    store.judge('refuse', [0, 2, 3, 99]);
    expect(server.made('startOperation').at(-1)!.given.body).toEqual({ proposalsId: 6, refuse: [0, 3] });
    // Nobody looked at one: none is shown now.
    expect(store.current()).toBeUndefined();
    store.judge('accept', [0, 2]);
    store.judge('accept');
    expect(server.made('startOperation')).toHaveLength(1);
  });

  test('what the server refuses is said, and waits again', async () => {
    store.show(0);
    store.judge('accept');
    const problem = { type: '', title: '', status: 409, code: 'gone', detail: 'The proposals are not there any more.' };
    server.made('startOperation')[0]!.answer.error(new ApiError(problem));
    expect(said).toEqual(['The proposals are not there any more.']);
    await settle();
    expect(store.proposals()[0]!.state).toBe('waiting');
  });

  test('of another set take the place of these; without one there are none', async () => {
    all = [found(70)];
    const job = TestBed.inject(JobStore);
    job.workbench.set(workbench({ clouds: [cloud({ id: 1 })], products: [set(6), set(9)] }));
    TestBed.inject(ApplicationRef).tick();
    // What belongs to the set before is not shown as if it were of this one.
    expect(store.proposals().length).toBeLessThan(2);
    await settle();
    expect(store.proposals()).toHaveLength(1);
    job.workbench.set(workbench({ clouds: [cloud({ id: 1 })], products: [] }));
    await settle();
    expect(store.proposals()).toEqual([]);
    expect(pieces('proposals')).toBe(0);
  });

  test('are hidden with their layer', async () => {
    TestBed.inject(LayerStore).setShown(layerKey('proposals', 6), false);
    await settle();
    expect(pieces('proposals')).toBe(0);
  });
});
