import { inThreads } from './in-threads.js';
import type { Row } from './rows.js';
import { CLASSES, METHODS, PROPOSED, type SceneFigures } from './scene-figures.js';

/** Methods that the proposed one is held against are tried on so many seeds. */
const SEEDS_OF_OTHERS = 1;
/** What issue and trade ask of every scene. */
const KAPPA = 0.93;
const [MOST_TYPE_ONE, MOST_TYPE_TWO] = [1, 5];
const [MOST_OPEN, MOST_UNDER_PLANTS] = [1.3, 2];
const MOST_P999 = 1;
const HELD = 9;

/** How well ground and what stands on it are found in each scene, and how near the terrain comes to the true one. */
export async function* qualityOf(names: readonly string[], seeds: readonly number[]): AsyncGenerator<Row> {
  const every: { kappa: number; total: number }[] = [];
  const tasks = names.flatMap((name) =>
    seeds.map((seed, k) => ({ name, seed, methods: k < SEEDS_OF_OTHERS ? Object.keys(METHODS) : [PROPOSED] })),
  );
  const results = inThreads(tasks);
  for (const name of names) {
    const runs: SceneFigures[] = [];
    for (const [k, task] of tasks.entries()) if (task.name === name) runs.push(await results[k]!);
    const proposed = runs.map(({ agreements }) => agreements[PROPOSED]!);
    every.push(...proposed);
    const row = (what: string, values: readonly number[], unit: string, more: Partial<Row> = {}): Row => ({
      name: `${name}: ${what}`,
      measured: mean(values),
      worst: (more.isMoreBetter ? Math.min : Math.max)(...values),
      unit,
      ...more,
    });
    const of = (key: 'typeOne' | 'typeTwo' | 'total'): number[] => proposed.map((a) => 100 * a[key]);
    yield row('kappa', proposed.map(({ kappa }) => kappa), '', { isMoreBetter: true, target: KAPPA }); // prettier-ignore
    yield row('type I', of('typeOne'), '%', { target: MOST_TYPE_ONE });
    yield row('type II', of('typeTwo'), '%', { target: MOST_TYPE_TWO });
    yield row('total', of('total'), '%');
    for (const [key, label, most] of [
      ['open', 'open ground', MOST_OPEN],
      ['plants', 'under plants', MOST_UNDER_PLANTS],
      ['all', 'everywhere', undefined],
    ] as const) {
      yield row(`terrain ${label}, RMSE`, runs.map((run) => 1000 * run.terrain[key]), 'mm'); // prettier-ignore
      yield row(`terrain ${label}, of the true ground points`, runs.map((run) => 1000 * run.floor[key]), 'mm'); // prettier-ignore
      yield row(`terrain ${label}, times the true points’`, runs.map((run) => run.terrain[key] / run.floor[key]), '', most === undefined ? {} : { target: most }); // prettier-ignore
    }
    yield row('terrain, 99.9 % within', runs.map((run) => run.terrain.p999), 'm', { target: MOST_P999 }); // prettier-ignore
    yield row('terrain, 99.9 % within, of the true ground points', runs.map((run) => run.floor.p999), 'm'); // prettier-ignore
    yield row('worst ten errors in places listed', runs.map((run) => run.worst.held), '', { isMoreBetter: true, target: HELD }); // prettier-ignore
    yield row(
      'places listed',
      runs.map((run) => run.worst.listed),
      '',
    );
    for (const method of Object.keys(METHODS)) {
      const others = runs.flatMap(({ agreements }) => (method === PROPOSED ? [] : (agreements[method] ?? [])));
      if (others.length > 0) yield row(`kappa of ${method}`, others.map(({ kappa }) => kappa), '', { isMoreBetter: true }); // prettier-ignore
    }
    for (const [code, label, precision, recall] of CLASSES) {
      const tallies = runs.map(({ objects }) => objects[code]!);
      if (tallies.every(({ theirs }) => theirs === 0)) {
        if (tallies.some(({ ours }) => ours > 0))
          yield row(`${label}, points where there is none`, tallies.map(({ ours }) => ours), ''); // prettier-ignore
        continue;
      }
      const asked = (target: number | undefined): Partial<Row> => (target === undefined ? {} : { target });
      yield row(`${label}, precision`, tallies.map(({ both, ours }) => (ours === 0 ? 0 : both / ours)), '', { isMoreBetter: true, ...asked(precision) }); // prettier-ignore
      yield row(`${label}, recall`, tallies.map(({ both, theirs }) => (theirs === 0 ? 1 : both / theirs)), '', { isMoreBetter: true, ...asked(recall) }); // prettier-ignore
    }
  }
  yield { name: 'all scenes: kappa', measured: mean(every.map(({ kappa }) => kappa)), unit: '', target: 0.965, isMoreBetter: true }; // prettier-ignore
  yield { name: 'all scenes: total', measured: 100 * mean(every.map(({ total }) => total)), unit: '%', target: 3 };
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}
