import { surveyScene } from '@pampero/demo';
import type { Row } from './rows.js';
import { agreementOn, groundOf, proposalFor } from './scene-figures.js';
import { VARIATIONS } from './variations.js';

/** Scenes that are varied, and a seed apart from all others. */
const [NAMES, SEED] = [['wooded-hill', 'town', 'terraces', 'levee-farm', 'photo-meadow', 'sparse-country'], 505];

/**
 * Ground of land that is steeper, and of surveys that are sparser and noisier, than what the methods were tuned on, with what is proposed.
 */
export function* variedQuality(): Generator<Row> {
  for (const name of NAMES) {
    const base = surveyScene(name, SEED);
    for (const [how, vary] of Object.entries(VARIATIONS)) {
      const run = vary(base);
      const { kappa, typeOne, typeTwo } = agreementOn(
        run.cloud.classification,
        groundOf(run, proposalFor(run).settings),
      );
      yield { name: `${name} ${how}: kappa`, measured: kappa, unit: '', target: 0.93, isMoreBetter: true };
      yield { name: `${name} ${how}: type I`, measured: 100 * typeOne, unit: '%' };
      yield { name: `${name} ${how}: type II`, measured: 100 * typeTwo, unit: '%' };
    }
  }
}
