import { fitToTargets, type Figure, type FitToTargetsParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { applySimilarity, fitTargets, toDegrees, type Similarity, type TargetFit } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { formatCounted } from '@pampero/core/wording';
import { movePoints } from '../../passes/move-points.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { listControl } from '../../store/control-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

type Place = readonly [number, number, number];
interface Target {
  readonly at: Place;
  readonly surveyed: Place;
}

/** Fewer than these, and the targets fit whatever is done: common practice, no source. */
const FEW: Readonly<Record<TargetFit, number>> = { shift: 3, level: 4, turn: 5, scale: 6 };

function work({ cloud: cloudId, targets, by, as }: FitToTargetsParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const surveyed = new Map((await listControl(job.read)).map((point) => [point.number, point]));
    const picked = targets.map(({ number, at }) => {
      const point = surveyed.get(number);
      if (!point)
        throw new PamperoError('no-such-point', {
          what: `There is no surveyed point “${number}” in the job.`,
          fix: 'Import the list of targets in Intake, or leave this one out.',
        });
      return { at, role: point.role, surveyed: [point.easting, point.northing, point.elevation] as const };
    });
    const used = picked.filter(({ role }) => role === 'control');
    const kept = picked.filter(({ role }) => role === 'check');
    const fit = fitTargets(
      used.map(({ at }) => at),
      used.map((target) => target.surveyed),
      by,
    );
    const facts = await readCloudFacts(job.read, cloudId);
    checkReach(facts, fit);
    const site = { cloudId, quantisation: quantisationOf(facts), nodes: await listStoredNodes(job.read, cloudId) };
    const moved = await movePoints(
      { pool, job, signal, historyId },
      site,
      { name: as || `Fitted to targets: ${FIT_NAMES[by]}`, because: formatCounted(used.length, 'target') },
      false,
      (nodes, transfer) =>
        pool.run('moveBySimilarity', { nodes, quantisation: site.quantisation, fit }, signal, transfer),
      (share) => report(0.02 + 0.96 * share, 'Moving the points'),
    );
    const { short } = lengthUnits[unit];
    const before = (list: readonly Target[]): string => rms(list, undefined, short);
    const after = (list: readonly Target[]): string => rms(list, fit, short);
    const text = (label: string, value: string): Figure => ({ label, value, quantity: 'text' });
    return {
      outcome: `${facts.name} fitted to ${formatCounted(used.length, 'target')} by ${FIT_NAMES[by]}: RMSE ${before(used)} to ${after(used)}${kept.length > 0 ? `, at the ${kept.length} kept out ${before(kept)} to ${after(kept)}` : ''}`,
      figures: [
        { label: 'Targets used', value: used.length, quantity: 'count' },
        text('RMSE at them, before', before(used)),
        text('RMSE at them, after', after(used)),
        { label: 'Targets kept out', value: kept.length, quantity: 'count' },
        text('RMSE at those, before', before(kept)),
        text('RMSE at those, after', after(kept)),
        ...told(fit, by, short),
        ...(used.length < FEW[by]
          ? [
              text(
                'Remark',
                `${formatCounted(used.length, 'target')} are few for ${FIT_NAMES[by]}: what is left at them says little. Judge by check points.`,
              ),
            ]
          : []),
        ...moved.figures,
      ],
      store: moved.store,
    };
  };
}

const FIT_NAMES: Readonly<Record<TargetFit, string>> = {
  shift: 'a shift',
  level: 'a shift and a turn about the upright',
  turn: 'a shift and any turn',
  scale: 'a shift, any turn and a scale',
};

function rms(list: readonly Target[], fit: Similarity | undefined, short: string): string {
  if (list.length === 0) return '–';
  const sum = list.reduce((squares, { at, surveyed }) => {
    const place = fit ? applySimilarity(fit, at) : at;
    return squares + place.reduce((s, value, axis) => s + (value - surveyed[axis]!) ** 2, 0);
  }, 0);
  return `${Math.sqrt(sum / list.length).toFixed(3)} ${short}`;
}

/** What was found, as one would say it. */
function told({ scale, rotation, from, to }: Similarity, by: TargetFit, short: string): Figure[] {
  const shift = to.map((value, axis) => (value - from[axis]!).toFixed(3)).join(', ');
  const turn = Math.acos(Math.max(-1, Math.min(1, (rotation[0]! + rotation[4]! + rotation[8]! - 1) / 2)));
  return [
    { label: 'Shift east, north, up', value: `${shift} ${short}`, quantity: 'text' },
    ...(by === 'shift' ? [] : [{ label: 'Turn', value: `${toDegrees(turn).toFixed(4)}°`, quantity: 'text' as const }]),
    ...(by === 'scale'
      ? [{ label: 'Scale', value: `${((scale - 1) * 1e6).toFixed(1)} ppm`, quantity: 'text' as const }]
      : []),
  ];
}

const INT_LIMIT = 2 ** 31 - 1;

/** @throws PamperoError where the cloud would lie beyond what its numbers can say */
function checkReach(
  { bounds: { min, max }, quantisation, name }: Awaited<ReturnType<typeof readCloudFacts>>,
  fit: Similarity,
): void {
  const { scale, offset } = quantisation;
  for (let corner = 0; corner < 8; corner++) {
    const place = [0, 1, 2].map((axis) => (corner & (1 << axis) ? max : min)[axis]!) as [number, number, number];
    const moved = applySimilarity(fit, place);
    if (moved.some((value, axis) => !(Math.abs((value - offset[axis]!) / scale[axis]!) < INT_LIMIT)))
      throw new PamperoError('moved-too-far', {
        what: `The targets would move ${name} further than its coordinates can say, to ${moved.map((v) => v.toFixed(0)).join(', ')}.`,
        fix: 'Check that each target was picked at its own place, and that the list is in the unit and system of the job.',
      });
  }
}

export const operation = serverOperation(fitToTargets, work);
