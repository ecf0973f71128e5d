import { inThreads } from './in-threads.js';
import type { Row } from './rows.js';
import { CLASSES, PROPOSED } from './scene-figures.js';
import { VARIATIONS } from './variations.js';

/** Scenes that are varied, and a seed apart from all others. */
const [NAMES, SEED] = [['wooded-hill', 'town', 'terraces', 'levee-farm', 'photo-meadow', 'sparse-country'], 505];
/** A class that has fewer points in truth says little. */
const FEWEST = 300;

/**
 * Land that is steeper, and surveys that are sparser and noisier, than what the methods were tuned on, with what is proposed: ground,
 * what stands on it, and the terrain.
 */
export async function* variedQuality(): AsyncGenerator<Row> {
  const ways = Object.keys(VARIATIONS);
  const tasks = NAMES.flatMap((name) => ways.map((how) => ({ name, how, seed: SEED, methods: [PROPOSED] })));
  const results = inThreads(tasks);
  for (const [k, { name, how }] of tasks.entries()) {
    const { agreements, terrain, floor, objects } = await results[k]!;
    const row = (what: string, measured: number, unit = '', target?: number): Row => ({
      name: `${name} ${how}: ${what}`,
      measured,
      unit,
      ...(target !== undefined && { target, isMoreBetter: true }),
    });
    const { kappa, typeOne, typeTwo } = agreements[PROPOSED]!;
    yield row('kappa', kappa, '', 0.93);
    yield row('type I', 100 * typeOne, '%');
    yield row('type II', 100 * typeTwo, '%');
    yield row('terrain, times the true points’', terrain.all / floor.all);
    for (const [code, label, precision, recall] of CLASSES) {
      const { both, ours, theirs } = objects[code]!;
      if (precision === undefined || recall === undefined) continue;
      if (theirs >= FEWEST) {
        yield row(`${label}, precision`, ours === 0 ? 0 : both / ours, '', precision);
        yield row(`${label}, recall`, both / theirs, '', recall);
      } else if (ours >= FEWEST) yield row(`${label}, points where there is next to none`, ours);
    }
  }
}
