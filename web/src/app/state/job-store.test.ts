// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import { describe, expect, test } from 'vitest';
import { cloud, entry, run, storesOver, surface, turn, workbench, type Answers } from '../stores.fixture';
import { JobStore } from './job-store';

function opened(answers: Answers, bench = workbench({})) {
  const over = storesOver((id, given) => (id === 'readJob' ? bench : answers(id, given)), [JobStore]);
  const store = TestBed.inject(JobStore);
  store.open('job');
  return { ...over, store };
}

describe('the open job', () => {
  test('counts classes over all clouds, in the order of their codes', async () => {
    const clouds = [
      cloud({ id: 1, classCounts: { '2': 10, '1': 5 }, pointCount: 15 }),
      cloud({ id: 2, classCounts: { '1': 7, '64': 1 }, pointCount: 8 }),
    ];
    const { store } = opened(() => undefined, workbench({ clouds }));
    await turn();
    expect([...store.classCounts()]).toEqual([[1, 12], [2, 10], [64, 1]]); // prettier-ignore
    expect(store.totalPoints()).toBe(23);
  });

  test('a stage is hollow until begun, half while one of its products is stale, solid otherwise', async () => {
    const history = {
      entries: [
        entry({ id: 1, stage: 'intake', operation: 'import-cloud' }),
        entry({ id: 2, stage: 'classify' }),
        entry({ id: 3, stage: 'terrain', operation: 'build-surface' }),
        entry({ id: 4, stage: 'thin', operation: 'thin-cloud', state: 'undone' }),
      ],
      undoes: 3,
      redoes: 4,
    };
    const { store } = opened(() => undefined, workbench({ history, products: [surface(1, { isStale: true })] }));
    await turn();
    expect(store.marks()).toMatchObject({ intake: 'solid', classify: 'solid', terrain: 'half', thin: 'hollow' });
  });

  test('the newest of a kind is the one made last, wherever it stands in the list', async () => {
    const { store } = opened(() => undefined, workbench({ products: [surface(7), surface(3), surface(5)] }));
    await turn();
    expect(store.newest('surface')?.id).toBe(7);
    expect(store.newest('grid')).toBeUndefined();
  });

  test('the ground is the newest surface that is no design, and is what a form begins with', async () => {
    const design = (id: number) =>
      surface(id, { facts: { ...(surface(id).facts as object), design: { cut: 0, fill: 1, area: 1, open: 0 } } as never }); // prettier-ignore
    const { store } = opened(() => undefined, workbench({ products: [design(9), surface(3), surface(5), design(4)] }));
    await turn();
    expect(store.ground()?.id).toBe(5);
    expect(store.designs().map(({ id }) => id)).toEqual([4, 9]);
    expect(store.referable('surface').map(({ id }) => id)).toEqual([4, 9, 3, 5]);
    store.workbench.set(workbench({ products: [design(9)] }));
    expect(store.ground()?.id).toBe(9);
  });

  test('undo straight after an edit waits for the edit to be begun', async () => {
    const { store, server } = opened(() => undefined);
    await turn();
    store.start('set-class', {}, () => undefined);
    store.undo();
    await turn();
    expect(server.made('undo')).toHaveLength(0);
    server.made('startOperation')[0]!.answer.next(run({ id: 'r1' }));
    server.made('startOperation')[0]!.answer.complete();
    await turn();
    expect(server.made('undo')).toHaveLength(1);
  });

  test('two undos and a redo are done one after the other, in the order they were asked for', async () => {
    const { store, server } = opened(() => undefined);
    await turn();
    store.undo();
    store.undo();
    store.redo();
    await turn();
    const asked = () => server.calls.filter(({ id }) => id === 'undo' || id === 'redo').map(({ id }) => id);
    const answer = (k: number): void => {
      const call = server.calls.filter(({ id }) => id === 'undo' || id === 'redo')[k]!;
      call.answer.next({ entries: [entry({ id: 1, state: 'undone' })], undoes: null, redoes: 1 });
      call.answer.complete();
    };
    expect(asked()).toEqual(['undo']);
    answer(0);
    await turn();
    expect(asked()).toEqual(['undo', 'undo']);
    answer(1);
    await turn();
    expect(asked()).toEqual(['undo', 'undo', 'redo']);
  });

  test('an undo that fails is told, and does not hold up the next', async () => {
    const { store, server, said } = opened(() => undefined);
    await turn();
    store.undo();
    store.undo();
    await turn();
    server.made('undo')[0]!.answer.error(new Error('Nothing to undo.'));
    await turn();
    expect(said).toEqual(['Nothing to undo.']);
    expect(server.made('undo')).toHaveLength(2);
  });

  test('the end of a run is told once, with its outcome; what is done by hand is not', async () => {
    const { store, server, said } = opened(() => undefined);
    await turn();
    const ended: string[] = [];
    store.ended$.subscribe(({ id }) => ended.push(id));
    const tell = (facts: Parameters<typeof run>[0]): void =>
      server.events.next({ kind: 'run', run: run(facts) } as never);
    tell({ id: 'r1' });
    tell({ id: 'r1', state: 'done', outcome: '12 points to ground', elapsedMs: 1500 });
    tell({ id: 'r1', state: 'done', outcome: '12 points to ground', elapsedMs: 1500 });
    tell({ id: 'r2', operation: 'set-class', title: 'Set class', state: 'done', outcome: '3 points' });
    tell({ id: 'r3', state: 'failed', outcome: 'No ground here.' });
    expect(ended).toEqual(['r1', 'r2', 'r3']);
    expect(said).toEqual(['Find ground: 12 points to ground, 1.5 s', 'Find ground: No ground here.']);
  });

  test('after a broken connection all is read again', async () => {
    const { server } = opened(() => undefined);
    await turn();
    const before = server.made('readJob').length;
    server.events.next(undefined);
    await turn();
    expect(server.made('readJob')).toHaveLength(before + 1);
  });

  test('one cloud that cannot be imported does not stop the others', async () => {
    const { store, server, said } = opened(() => undefined);
    await turn();
    store.importClouds([{ file: { upload: 'a' } as never }, { file: { upload: 'b' } as never }]);
    server.made('startOperation')[0]!.answer.error(new Error('a.las is no LAS file.'));
    await turn();
    expect(said).toEqual(['a.las is no LAS file.']);
    expect(server.made('startOperation').map(({ given }) => given.body)).toEqual([
      { file: { upload: 'a' } },
      { file: { upload: 'b' } },
    ]);
  });

  test('rebuilding says how many are rebuilt and why others stay stale', async () => {
    const { store, said } = opened((id) =>
      id === 'rebuildStale'
        ? { runs: [run({ id: 'r1' }), run({ id: 'r2' })], left: [{ name: 'Design', because: 'It came from a file.' }] }
        : undefined,
    );
    await turn();
    store.rebuild();
    expect(said).toEqual(['Rebuilding 2 products. Design stays stale. It came from a file.']);
  });
});
