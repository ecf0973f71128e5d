import { setStrips, type SetStripsParameters, type Strip } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { alongTrajectory, pointsWithin } from '../../passes/strip-facts.js';
import { flightOf } from '../../passes/strip-flight.js';
import { timesOfCloud } from '../../passes/strip-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { foundStrips } from './found-strips.js';

function work(parameters: SetStripsParameters, { pool, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const facts = await readCloudFacts(job.read, parameters.cloud);
    const isTimed = parameters.strips.some(({ sourceId }) => sourceId === undefined);
    if (isTimed && !facts.columns.gpsTime)
      throw new PamperoError('no-times', {
        what: `The points of ${facts.name} carry no times.`,
        fix: 'Tell strips by point source ID, or export the cloud with GPS times.',
      });
    const strangers = parameters.strips.filter(
      ({ sourceId }) => sourceId !== undefined && !facts.source.strips.includes(sourceId),
    );
    if (strangers.length > 0)
      throw new PamperoError('no-such-strip', {
        what: `No point of ${facts.name} has point source ID ${strangers.map(({ sourceId }) => sourceId).join(', ')}.`,
        fix: `There are ${facts.source.strips.join(', ')}.`,
      });
    const pass = { pool, job, signal };
    const site = {
      cloudId: parameters.cloud,
      facts,
      quantisation: quantisationOf(facts),
      nodes: await listStoredNodes(job.read, parameters.cloud),
    };
    report(0.05, 'Reading the times');
    const { bySource, seconds } = await timesOfCloud(pass, site, (share) =>
      report(0.05 + 0.9 * share, 'Reading the times'),
    );
    const all = [...bySource.values()];
    const span = { from: Math.min(...all.map(({ from }) => from)), to: Math.max(...all.map(({ to }) => to)) };
    const flight =
      parameters.trajectory === undefined ? undefined : await flightOf(pass, site, parameters.trajectory, span);
    const ground = facts.source.elevationRange[0];
    const strips = parameters.strips.map(({ name, from, to, sourceId, isLeftOut }, k): Strip => {
      const times = sourceId === undefined ? { from: from!, to: to! } : bySource.get(sourceId);
      const hasTimes = facts.columns.gpsTime && times !== undefined;
      return {
        number: k + 1,
        name,
        ...(sourceId !== undefined && { sourceId }),
        points:
          sourceId === undefined
            ? pointsWithin(seconds, { from: from!, to: to! })
            : (bySource.get(sourceId)?.points ?? 0),
        ...(hasTimes && { from: times.from, to: times.to }),
        isLeftOut,
        ...(flight &&
          hasTimes &&
          alongTrajectory(
            flight.trajectory.columns,
            times.from + flight.timeShift,
            times.to + flight.timeShift,
            ground,
          )),
      };
    });
    if (strips.every(({ isLeftOut }) => isLeftOut))
      throw new PamperoError('no-strips', { what: 'All strips are left out.', fix: 'Keep one at least.' });
    return foundStrips(facts, {
      by: isTimed ? 'time' : 'source',
      strips,
      operation: setStrips.id,
      parameters,
      replaces,
    });
  };
}

export const operation = serverOperation(setStrips, work);
