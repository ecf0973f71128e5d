import { adjustStripsOperation, chosenGroups, type AdjustStripsParameters, type FactsOf } from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import {
  addCorrections,
  balancedPairs,
  noCorrection,
  relativeLimits,
  toRadians,
  TRAJECTORY_GROUPS,
  type Adjustment,
  type ControlObservation,
  type Correction,
  type PatchPairs,
  type ProposedGroups,
} from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { formatCounted } from '@pampero/core/wording';
import {
  agreementOf,
  allPairs,
  differenceMap,
  mapFrameOf,
  packMaps,
  planesAtControl,
  shownWidth,
  type ControlPlane,
} from '../../passes/strip-pairs.js';
import { findFlight } from '../../passes/strip-flight.js';
import { planPatches } from '../../passes/strip-patches.js';
import { spansOf, stripSite, timesOfCloud } from '../../passes/strip-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { readCloud } from '../../store/cloud-repository.js';
import { storeProduct } from '../../store/product-repository.js';
import type { FlightCorrection } from '../../tasks/strip-points.js';
import { georeferencedWith } from '../../store/sensor-of-cloud.js';
import { proposedBy } from '../proposed-for.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { GROUP_NAMES, labelOf, shownUnit, valueText } from './adjustment-labels.js';
import { keptOutOf, observationsOf, residualsOf } from './adjustment-control.js';
import { remarksOf } from './adjustment-remarks.js';
import { SLOPE_APART } from './compare-strips.js';

/** Correspondences that are solved by: more tell no more. */
const MOST_PAIRS = 100_000;
/** Patches are made anew of the corrected points so often at most; common practice, no source: three. */
const MOST_LOOPS = 4;

function work(parameters: AdjustStripsParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const pass = { pool, job, signal };
    const metre = metresPer(unit);
    const site = await stripSite(pass, parameters.cloud, parameters.strips);
    const { positions } = await readCloud(job.read, parameters.cloud);
    report(0.01, 'Reading the times');
    const { bySource } = await timesOfCloud(pass, site, (share) => report(0.01 + 0.09 * share, 'Reading the times'));
    const times = [...bySource.values()];
    const whole = { from: Math.min(...times.map((t) => t.from)), to: Math.max(...times.map((t) => t.to)) };
    const { trajectoryId, flight } = await findFlight(pass, site, parameters.trajectory, whole);
    const chosen = chosenGroups(parameters);
    const needing = chosen?.find((group) => TRAJECTORY_GROUPS.includes(group));
    if (needing && !flight)
      throw new PamperoError('needs-trajectory', {
        what: `${GROUP_NAMES[needing]} cannot be corrected without a trajectory.`,
        fix: 'Import the trajectory of this flight, or correct the height and plan of each strip only.',
      });
    const timeShift = flight?.timeShift ?? 0;
    const spans = spansOf(site, bySource).map(({ from, to }) => ({ from: from + timeShift, to: to + timeShift }));
    const leverArm: [number, number, number] = [parameters.leverForward, parameters.leverRight, parameters.leverDown];
    const plan = await planPatches(pass, site, unit, parameters);
    const limits = { roughness: plan.roughness, slope: Math.tan(toRadians(parameters.slope)), slopeApart: SLOPE_APART };
    const flightWith = (correction: Correction): FlightCorrection => ({
      correction,
      ...(flight && { trajectory: flight.trajectory }),
      timeShift,
      needsTimes: chosen === undefined || chosen.includes('stripDrift'),
    });
    let correction = noCorrection(spans, leverArm);
    let loop = 0;
    const gather = async (step: string) =>
      (
        await allPairs(pass, site, plan, flightWith(correction), limits, (share) =>
          report(0.12 + (0.8 * (loop + share)) / (MOST_LOOPS + 1), step),
        )
      ).pairs;
    const planesBefore = await planesAtControl(pass, site, unit, plan, flightWith(correction));
    const keptOut = keptOutOf(planesBefore, parameters);
    let pairs = await gather('Comparing');
    if (pairs.count === 0)
      throw new PamperoError('no-overlap', {
        what: `No two of the ${site.names.length} strips share a smooth patch.`,
        fix: 'Check that the strips overlap; else make patches larger or let them be rougher or steeper.',
      });
    const first = pairs;
    const base = { spans, leverArm };
    const settings = { metre, timeStep: parameters.timeStep, stiffness: parameters.stiffness };
    const controlOf = (list: readonly ControlPlane[]): ControlObservation[] =>
      parameters.control === 'height' ? observationsOf(list, keptOut, parameters.controlAccuracy) : [];
    report(0.28, 'Looking for what is wrong');
    const { groups, because }: ProposedGroups = chosen
      ? { groups: chosen, because: [] }
      : await pool.run(
          'proposeUnknowns',
          { pairs, control: controlOf(planesBefore), base, trajectory: flight?.trajectory.columns, settings },
          signal,
        );
    let adjusted: Adjustment | undefined;
    let planes = planesBefore;
    for (; loop < MOST_LOOPS;) {
      const round: Adjustment = await pool.run(
        'adjust',
        {
          pairs: balancedPairs(pairs, MOST_PAIRS),
          control: controlOf(planes),
          base,
          trajectory: flight?.trajectory.columns,
          settings: { ...settings, groups },
        },
        signal,
      );
      adjusted = adjusted ? joined(adjusted, round) : round;
      correction = addCorrections(correction, round.correction);
      loop++;
      planes = await planesAtControl(pass, site, unit, plan, flightWith(correction));
      pairs = await gather('Comparing again, corrected');
      if (loop > 1 && isSettled(round)) break;
    }
    const done = adjusted!;
    const halfWidth = shownWidth(first);
    const before = agreementOf(first, site.names, halfWidth);
    const after = agreementOf(pairs, site.names, halfWidth);
    const expected = expectedOf(pairs);
    const { short } = lengthUnits[unit];
    const accuracyClass = parameters.accuracyClass / 100 / metre;
    const remarks = [
      ...because.map(
        (each) =>
          `${GROUP_NAMES[each.group].replace('of strip', 'of each strip')} is corrected too, as the flight shows it: RMSDz ${each.without.toFixed(4)} ${short} without, ${each.with.toFixed(4)} ${short} with.`,
      ),
      ...remarksOf(done, first, groups, short, after.all.rmsd, before.all.rmsd, site.names),
    ];
    const frame = mapFrameOf(site.facts, plan.cell);
    const labels = done.unknowns.map((unknown) => labelOf(unknown, site.names));
    return {
      outcome: `RMSDz ${before.all.rmsd.toFixed(3)} to ${after.all.rmsd.toFixed(3)} ${short} between strips; ${formatCounted(done.unknowns.filter(({ isHeld }) => !isHeld).length, 'correction')} found, nothing moved yet`,
      figures: [
        { label: 'RMSDz before', value: `${before.all.rmsd.toFixed(4)} ${short}`, quantity: 'text' },
        { label: 'RMSDz after', value: `${after.all.rmsd.toFixed(4)} ${short}`, quantity: 'text' },
        { label: 'What ranging noise leaves', value: `${expected.toFixed(4)} ${short}`, quantity: 'text' },
        ...done.unknowns.slice(0, 12).map((unknown, k) => ({
          label: labels[k]!,
          value: unknown.isHeld ? 'not told by this flight' : valueText(unknown, short),
          quantity: 'text' as const,
        })),
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'adjustment',
          name: parameters.name ?? `Adjustment of ${site.facts.name}`,
          operation: adjustStripsOperation.id,
          parameters,
          facts: {
            cloudId: site.cloudId,
            positions: positions.shown,
            ...(trajectoryId !== undefined && { trajectoryId }),
            ...(parameters.strips !== undefined && { stripsId: parameters.strips }),
            stripNames: [...site.names],
            groups: [...groups],
            unknowns: done.unknowns.map((unknown, k) => ({
              group: unknown.group,
              label: labels[k]!,
              ...shownUnit(unknown, short),
              isHeld: unknown.isHeld,
            })),
            correlated: done.correlated
              .slice(0, 20)
              .map(({ one, two, correlation }) => ({ one: labels[one]!, two: labels[two]!, correlation })),
            before,
            after,
            expected,
            observations: done.observations,
            doubted: done.doubted,
            rounds: loop,
            control: residualsOf(planesBefore, planes, keptOut, parameters.control === 'none', site.names),
            accuracyClass,
            limits: relativeLimits(accuracyClass),
            remarks,
            correction: {
              ...correction,
              spline: correction.spline && { ...correction.spline, values: [...correction.spline.values] },
            } as FactsOf<'adjustment'>['correction'],
            timeShift,
            map: frame,
          },
          blobs: {
            maps: packMaps({ before: differenceMap(first, frame), elevation: differenceMap(pairs, frame) }, frame),
          },
          // It stays true of the positions it was reckoned from, whatever becomes of the cloud.
          inputs: [],
        }),
    };
  };
}

/** Found after another: values add, everything else is as it was found last. */
function joined(one: Adjustment, two: Adjustment): Adjustment {
  return {
    ...two,
    unknowns: two.unknowns.map((unknown, k) => ({ ...unknown, value: one.unknowns[k]!.value + unknown.value })),
  };
}

/** What the last round still found is a small part of how well it is known. */
function isSettled({ unknowns }: Adjustment): boolean {
  return unknowns.every(({ value, standardDeviation, isHeld }) => isHeld || Math.abs(value) <= 0.3 * standardDeviation);
}

/** Root mean square of the differences that the roughness of the patches alone lets expect. */
function expectedOf({ sigma, count }: PatchPairs): number {
  return count === 0 ? 0 : Math.sqrt(sigma.reduce((sum, value) => sum + value * value, 0) / count);
}

/** The lever arm that the points were made with, where they were georeferenced in this job. */
const propose = proposedBy(async (cloudId, { file, unit }) => {
  const was = await georeferencedWith(file.read, cloudId);
  if (!was) return { settings: {}, reasons: [] };
  const { leverForward, leverRight, leverDown } = was;
  return {
    settings: { leverForward, leverRight, leverDown },
    reasons: [
      `The cloud was georeferenced here with a lever arm of ${[leverForward, leverRight, leverDown].join(', ')} ${lengthUnits[unit].short} forward, right and down.`,
    ],
  };
});

export const operation = { ...serverOperation(adjustStripsOperation, work), propose };
