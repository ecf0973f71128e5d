import { fitToControl, type Figure, type FitToControlParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { fitHeights, heightAt } from '@pampero/core/strips';
import { movePoints } from '../../passes/move-points.js';
import type { RunWork } from '../../runs/run-service.js';
import { lookAtControl } from '../../questions/look-at-control.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Fewer than these, and the points fit whatever is done: common practice, no source. */
const FEW: Readonly<Record<FitToControlParameters['method'], number>> = { shift: 3, tilt: 6, surface: 12 };

function work(parameters: FitToControlParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const { cloud: cloudId, method, smoothing, keepOut, as } = parameters;
    report(0.02, 'Looking at control');
    const { points } = await lookAtControl(pool, job, cloudId, unit);
    const seen = points.flatMap(({ difference, ...point }) =>
      difference === undefined ? [] : [{ ...point, difference }],
    );
    let control = 0;
    const used: typeof seen = [];
    const kept: typeof seen = [];
    for (const point of seen) {
      const isOut = point.role === 'check' || (keepOut > 0 && ++control % keepOut === 0);
      (isOut ? kept : used).push(point);
    }
    const heights = fitHeights(
      used.map(({ easting, northing, difference }) => ({ x: easting, y: northing, difference })),
      method,
      smoothing,
    );
    const facts = await readCloudFacts(job.read, cloudId);
    const site = { cloudId, quantisation: quantisationOf(facts), nodes: await listStoredNodes(job.read, cloudId) };
    const moved = await movePoints(
      { pool, job, signal, historyId },
      site,
      { name: as || `Fitted to control: ${METHOD_NAMES[method]}`, because: `${used.length} control points` },
      false,
      (nodes, transfer) =>
        pool.run('moveByHeight', { nodes, quantisation: site.quantisation, heights }, signal, transfer),
      (share) => report(0.1 + 0.88 * share, 'Moving the points'),
    );
    const { short } = lengthUnits[unit];
    const rms = (list: typeof seen, after: boolean): string => {
      if (list.length === 0) return '–';
      const off = list.map((p) => p.difference + (after ? heightAt(heights, p.easting, p.northing) : 0));
      return `${Math.sqrt(off.reduce((sum, d) => sum + d * d, 0) / off.length).toFixed(3)} ${short}`;
    };
    const text = (label: string, value: string): Figure => ({ label, value, quantity: 'text' });
    const isFew = used.length < FEW[method];
    return {
      outcome: `${facts.name} fitted to ${used.length} control points by ${METHOD_NAMES[method]}: RMSEz ${rms(used, false)} to ${rms(used, true)}${kept.length > 0 ? `, at the ${kept.length} kept out ${rms(kept, false)} to ${rms(kept, true)}` : ''}`,
      figures: [
        { label: 'Control points used', value: used.length, quantity: 'count' },
        text('RMSEz at them, before', rms(used, false)),
        text('RMSEz at them, after', rms(used, true)),
        { label: 'Points kept out', value: kept.length, quantity: 'count' },
        text('RMSEz at those, before', rms(kept, false)),
        text('RMSEz at those, after', rms(kept, true)),
        ...(isFew
          ? [
              text(
                'Remark',
                `${used.length} points are few for ${METHOD_NAMES[method]}: what is left at them says little. Judge by points that were kept out.`,
              ),
            ]
          : []),
        ...moved.figures,
      ],
      store: moved.store,
    };
  };
}

const METHOD_NAMES: Readonly<Record<FitToControlParameters['method'], string>> = {
  shift: 'one shift',
  tilt: 'a tilted plane',
  surface: 'a smooth surface',
};

export const operation = serverOperation(fitToControl, work);
