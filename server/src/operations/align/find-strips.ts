import { findStrips, type FindStripsParameters, type Strip } from '@pampero/contract';
import { spansByGaps, straightRuns, STRAIGHT_RUNS } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { alongTrajectory, pointsWithin } from '../../passes/strip-facts.js';
import { flightOf } from '../../passes/strip-flight.js';
import { timesOfCloud } from '../../passes/strip-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { foundStrips } from './found-strips.js';

function work(parameters: FindStripsParameters, { pool, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { cloud: cloudId, by } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const site = {
      cloudId,
      facts,
      quantisation: quantisationOf(facts),
      nodes: await listStoredNodes(job.read, cloudId),
    };
    const pass = { pool, job, signal };
    if (by !== 'source' && !facts.columns.gpsTime)
      throw new PamperoError('no-times', {
        what: `The points of ${facts.name} carry no times.`,
        fix: 'Tell strips by point source ID, or export the cloud with GPS times.',
      });
    report(0.05, 'Reading the times');
    const { bySource, seconds } = await timesOfCloud(pass, site, (share) =>
      report(0.05 + 0.8 * share, 'Reading the times'),
    );
    const all = [...bySource.values()];
    const span = {
      from: Math.min(...all.map(({ from }) => from)),
      to: Math.max(...all.map(({ to }) => to)),
    };
    const flight =
      parameters.trajectory === undefined ? undefined : await flightOf(pass, site, parameters.trajectory, span);
    const middle = (facts.bounds.min[2] + facts.bounds.max[2]) / 2;
    const ground = facts.source.elevationRange[0] || middle;
    let found: Strip[];
    if (by === 'source')
      found = [...bySource]
        .sort(([a], [b]) => a - b)
        .map(([id, times], k) => ({
          number: k + 1,
          name: String(id),
          sourceId: id,
          points: times.points,
          ...(facts.columns.gpsTime && { from: times.from, to: times.to }),
          isLeftOut: false,
        }));
    else {
      const runs =
        by === 'gaps'
          ? spansByGaps(
              [...seconds.values()].map(({ from, to }) => [from, to] as const),
              parameters.gap,
            )
          : straightRuns(flight!.trajectory.columns, {
              ...STRAIGHT_RUNS,
              turnRate: parameters.turnRate,
              shortest: parameters.shortest,
            }).map(({ number, from, to }) => ({ number, from: from - flight!.timeShift, to: to - flight!.timeShift }));
      found = runs
        .map((run) => ({ ...run, points: pointsWithin(seconds, run) }))
        .filter(({ from, to, points }) => points > 0 && to - from >= parameters.shortest)
        .map(({ from, to, points }, k) => ({ number: k + 1, name: String(k + 1), from, to, points, isLeftOut: false }));
    }
    const strips = arranged(
      found.map((strip) =>
        flight && strip.from !== undefined
          ? {
              ...strip,
              ...alongTrajectory(
                flight.trajectory.columns,
                strip.from + flight.timeShift,
                strip.to! + flight.timeShift,
                ground,
              ),
            }
          : strip,
      ),
      parameters,
    );
    if (strips.length === 0)
      throw new PamperoError('no-strips', {
        what: 'No strip was found.',
        fix: 'Make the shortest strip shorter, or tell strips by another thing.',
      });
    return foundStrips(facts, {
      by: by === 'source' ? 'source' : 'time',
      strips,
      operation: findStrips.id,
      parameters,
      replaces,
    });
  };
}

/** Left out, merged and named as asked. @throws PamperoError where a number is none of the strips */
function arranged(strips: Strip[], { leaveOut, merge, rename }: FindStripsParameters): Strip[] {
  const parts = (text: string): string[] =>
    text
      .split(',')
      .map((part) => part.trim())
      .filter((part) => part !== '');
  const find = (text: string): Strip => {
    const strip = strips.find(({ number, name }) => String(number) === text.trim() || name === text.trim());
    if (!strip)
      throw new PamperoError('no-such-strip', {
        what: `There is no strip “${text.trim().slice(0, 40)}”; there are ${strips.map(({ name }) => name).join(', ')}.`,
        fix: 'Name strips by their numbers.',
      });
    return strip;
  };
  const out = new Set(parts(leaveOut).map((part) => find(part).number));
  const names = new Map(strips.map(({ number, name }) => [number, name]));
  for (const group of parts(merge)) {
    const members = group.split('+').map(find);
    for (const { number } of members) names.set(number, names.get(members[0]!.number)!);
  }
  for (const part of parts(rename)) {
    const [which = '', name = ''] = part.split('=');
    const { number } = find(which);
    const old = names.get(number)!;
    for (const [k, had] of names) if (had === old) names.set(k, name.trim() || old);
  }
  return strips.map((strip) => ({ ...strip, name: names.get(strip.number)!, isLeftOut: out.has(strip.number) }));
}

export const operation = serverOperation(findStrips, work);
