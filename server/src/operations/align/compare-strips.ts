import { compareStrips, type CompareStripsParameters, type FactsOf } from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { choosePairs, facesEnough, facingShares, relativeLimits, toRadians } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import {
  agreementOf,
  allPairs,
  differenceMap,
  mapFrameOf,
  packMaps,
  packPairs,
  planesAtControl,
  shownWidth,
  type ControlPlane,
} from '../../passes/strip-pairs.js';
import { planPatches } from '../../passes/strip-patches.js';
import { stripSite } from '../../passes/strip-site.js';
import { uncorrected } from '../../passes/strip-flight.js';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Planes of corresponding patches whose slopes differ by more see different things. */
export const SLOPE_APART = 0.2;
/** Degrees up to which slopes tell of a shift in plan. */
const STEEPEST = 50;

function work(parameters: CompareStripsParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const pass = { pool, job, signal };
    const site = await stripSite(pass, parameters.cloud, parameters.strips);
    report(0.02, 'Looking for smooth ground');
    const plan = await planPatches(pass, site, unit, parameters);
    const flight = uncorrected(site.names.length);
    // Steeper patches are looked at too: they tell whether a shift in plan could be seen.
    const slopeLimit = Math.tan(toRadians(parameters.slope));
    const limits = {
      roughness: plan.roughness,
      slope: Math.max(slopeLimit, Math.tan(toRadians(STEEPEST))),
      slopeApart: SLOPE_APART,
    };
    const { pairs: every, within } = await allPairs(pass, site, plan, flight, limits, (share) =>
      report(0.1 + 0.8 * share, 'Comparing'),
    );
    const flat = [...Array(every.count).keys()].filter(
      (k) => Math.hypot(every.slopeEast[k]!, every.slopeNorth[k]!) <= slopeLimit,
    );
    const pairs = choosePairs(every, Uint32Array.from(flat));
    if (pairs.count === 0)
      throw new PamperoError('no-overlap', {
        what: `No two of the ${site.names.length} strips share a smooth patch of ${plan.cell} ${lengthUnits[unit].short}.`,
        fix: 'Check that the strips overlap; else make patches larger or let them be rougher or steeper.',
      });
    report(0.92, 'Looking at control');
    const planes = await planesAtControl(pass, site, unit, plan, flight);
    const agreement = agreementOf(pairs, site.names, shownWidth(pairs));
    const accuracyClass = parameters.accuracyClass / 100 / metresPer(unit);
    const relative = relativeLimits(accuracyClass);
    const facing = facingShares(every);
    const frame = mapFrameOf(site.facts, plan.cell);
    const { short } = lengthUnits[unit];
    const holds = agreement.all.rmsd <= relative.between;
    return {
      outcome: `RMSDz ${agreement.all.rmsd.toFixed(3)} ${short} over ${formatCount(pairs.count)} patches of ${formatCounted(agreement.pairs.length, 'pair')} of strips: ${holds ? 'within' : 'beyond'} the ${relative.between.toFixed(3)} ${short} of the ${parameters.accuracyClass} cm class`,
      figures: [
        { label: 'Patches', value: pairs.count, quantity: 'count' },
        { label: 'RMSDz between strips', value: `${agreement.all.rmsd.toFixed(4)} ${short}`, quantity: 'text' },
        { label: 'Within a strip', value: `${within.toFixed(4)} ${short}`, quantity: 'text' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'strip-differences',
          name: parameters.name ?? `Strips of ${site.facts.name} compared`,
          operation: compareStrips.id,
          parameters,
          facts: {
            cloudId: site.cloudId,
            agreement,
            patch: plan.cell,
            roughnessLimit: plan.roughness,
            slopeLimit: parameters.slope,
            within,
            facing: { flat: facing.flat, sides: [...facing.sides], isEnough: facesEnough(facing) },
            accuracyClass,
            limits: relative,
            control: perStrip(planes, site.names),
            map: frame,
          },
          blobs: { maps: packMaps({ elevation: differenceMap(pairs, frame) }, frame), pairs: packPairs(pairs, frame) },
          replaces,
        }),
    };
  };
}

/** Each strip's surface less the survey. */
export function perStrip(
  planes: readonly ControlPlane[],
  names: readonly string[],
): FactsOf<'strip-differences'>['control'] {
  return names.flatMap((strip, k) => {
    const off = planes.filter((plane) => plane.strip === k).map(({ elevation, surveyed }) => elevation - surveyed);
    if (off.length === 0) return [];
    return [
      {
        strip,
        count: off.length,
        mean: off.reduce((sum, d) => sum + d, 0) / off.length,
        rmse: Math.sqrt(off.reduce((sum, d) => sum + d * d, 0) / off.length),
        worst: off.reduce((worst, d) => (Math.abs(d) > Math.abs(worst) ? d : worst), 0),
      },
    ];
  });
}

export const operation = serverOperation(compareStrips, work);
