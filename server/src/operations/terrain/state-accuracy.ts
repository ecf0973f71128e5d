import { stateAccuracy, type Figure, type StateAccuracyParameters } from '@pampero/contract';
import { saysVegetated } from '@pampero/core/accuracy';
import { lengthUnits } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { listControl } from '../../store/control-repository.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** A surface compared with the job's check points, kept as a statement. */
function work(parameters: StateAccuracyParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { surfaceId, surveyError } = parameters;
    const surface = await readProduct(job.read, surfaceId, 'surface');
    const checks = (await listControl(job.read)).filter(({ role }) => role === 'check');
    if (checks.length === 0)
      throw new PamperoError('no-check-points', {
        what: 'The job has no check points to compare the surface with.',
        fix: 'Import a list of them in Intake, as check points.',
      });
    const known = checks.map(({ number }) => number);
    const reasons = reasonsOf(parameters.excluded, known);
    report(0.2, 'Comparing');
    const { statement, points } = await pool.run(
      'accuracyOf',
      {
        tin: await readProductBlob(job.read, surfaceId, 'tin'),
        points: checks.map(({ number, easting, northing, elevation, code }) => ({
          number,
          easting,
          northing,
          elevation,
          code,
          ...(reasons.has(number) && { excluded: reasons.get(number)! }),
        })),
        surveyError,
      },
      signal,
    );
    const { short } = lengthUnits[unit];
    const length = (value: number | undefined): string => (value === undefined ? '–' : `${value.toFixed(3)} ${short}`);
    const { open, vegetated, nva, vva, rmseV, interval, intervalNmas, hasEnough } = statement;
    const text = (label: string, value: string): Figure => ({ label, value, quantity: 'text' });
    // A number and not words: gates hold it against their limit to the last digit.
    const measured = (label: string, value: number | undefined): Figure =>
      value === undefined ? text(label, '–') : { label, value, quantity: 'length' };
    const count = (label: string, value: number): Figure => ({ label, value, quantity: 'count' });
    const beside = points.filter(({ surface: z }) => z === undefined).length;
    const figures: Figure[] = [
      count('Check points on open ground', open?.count ?? 0),
      measured('Mean', open?.mean),
      measured('Median', open?.median),
      measured('Standard deviation', open?.standardDeviation),
      measured('RMSEz', open?.rmse),
      measured('RMSE with that of the check points', rmseV),
      measured('Worst', open?.worst),
      measured('NVA, 95 %', nva),
      count('Check points in vegetation', vegetated?.count ?? 0),
      measured('VVA, 95th percentile', vva),
      measured('Contour interval supported', interval),
      measured('Contour interval, National Map Accuracy', intervalNmas),
      ...(beside > 0 ? [count('Off the surface', beside)] : []),
      ...(reasons.size > 0 ? [count('Left out with a reason', reasons.size)] : []),
      ...(hasEnough ? [] : [text('Too few for edition 2', 'fewer than 30')]),
    ];
    const name = parameters.name ?? `Accuracy of ${surface.name}`;
    return {
      outcome: open
        ? `RMSEz ${length(open.rmse)}, NVA ${length(nva)} over ${open.count} check points`
        : 'No check point lies on the surface.',
      figures,
      store: (models) =>
        storeProduct(models, {
          kind: 'accuracy',
          name,
          operation: stateAccuracy.id,
          parameters,
          facts: {
            statement,
            figures,
            surveyError,
            surfaceName: surface.name,
            points: points.map((point) => ({ ...point, isVegetated: saysVegetated(point.code) })),
          },
          blobs: {},
          replaces,
        }),
    };
  };
}

/** "K12 on a manhole; K15 moved" by number; a point without a reason is refused. */
function reasonsOf(text: string, numbers: readonly string[]): Map<string, string> {
  const reasons = new Map<string, string>();
  for (const part of text.split(/[;\n]/)) {
    const [number, ...words] = part.trim().split(/\s+/);
    if (!number) continue;
    if (!numbers.includes(number))
      throw new PamperoError('no-such-point', {
        what: `There is no check point ${number}.`,
        fix: 'Write the number as it is in the list, then the reason; a semicolon before the next.',
      });
    if (words.length === 0)
      throw new PamperoError('no-reason', {
        what: `There is no reason for leaving out ${number}.`,
        fix: 'Write the reason after its number: K12 on a manhole.',
      });
    reasons.set(number, words.join(' '));
  }
  return reasons;
}

export const operation = serverOperation(stateAccuracy, work);
