import { rm, stat } from 'node:fs/promises';
import { georeferenceScan, type FactsOf, type GeoreferenceScanParameters } from '@pampero/contract';
import { readColumnNames } from '@pampero/core/formats/number-table';
import { lengthUnits } from '@pampero/core/geodesy';
import { ADJUSTED, toRadians, WEEK_SECONDS, type Sensor } from '@pampero/core/strips';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { checkRoom } from '../../errors/disk-room.js';
import { readTrajectory } from '../../passes/strip-flight.js';
import { takeIn } from '../clean/written-cloud.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

type Three = [number, number, number];

function sensorOf(p: GeoreferenceScanParameters): Sensor {
  const turned = (roll: number, pitch: number, heading: number): Three => [
    toRadians(roll),
    toRadians(pitch),
    toRadians(heading),
  ];
  return {
    leverArm: [p.leverForward, p.leverRight, p.leverDown],
    mounting: turned(p.mountingRoll, p.mountingPitch, p.mountingHeading),
    boresight: turned(p.boresightRoll, p.boresightPitch, p.boresightHeading),
    rangeOffset: p.rangeOffset,
    rangeScale: p.rangeScale / 1e6,
    angleScale: p.angleScale / 1e6,
    rangeNoise: p.rangeNoise,
    beamDivergence: p.beamDivergence / 1000,
  };
}

/** The GPS week that a flight began in, where its clock tells. */
function weekOf({ clock, start }: FactsOf<'trajectory'>): number | undefined {
  return clock === 'week' ? undefined : Math.floor((clock === 'adjusted' ? start + ADJUSTED : start) / WEEK_SECONDS);
}

/** Ranges and angles into points, those into a cloud like any that comes in. */
function begin(parameters: GeoreferenceScanParameters, surroundings: FileSurroundings): RunWork {
  const { pool, job, unit, memory, library, source } = surroundings;
  return async (context) => {
    const { job: file, signal, report } = context;
    const { trajectory, facts } = await readTrajectory({ job: file }, parameters.trajectory);
    const target = library.scratchPath('.las');
    const { size } = await stat(source.path);
    await checkRoom(library.folder, size, 'Georeferencing');
    try {
      const { east, north } = trajectory.columns;
      const whole = (value: number): number => Math.round(value / 1000) * 1000;
      report(0.01, 'Georeferencing');
      const made = await pool.read(
        'scanToLas',
        {
          path: source.path,
          fileName: source.fileName,
          columns: readColumnNames(parameters.columns),
          trajectory: trajectory.columns,
          sensor: sensorOf(parameters),
          limits: {
            shortest: parameters.shortest,
            longest: parameters.longest,
            widest: toRadians(parameters.widest),
            from: parameters.from ?? -Infinity,
            to: parameters.to ?? Infinity,
          },
          quantisation: { scale: [0.001, 0.001, 0.001], offset: [whole(east[0]!), whole(north[0]!), 0] },
          las: { crs: { ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }) }, created: new Date(0) },
          clock: facts.clock,
          week: facts.week ?? weekOf(facts),
          lasShift: facts.clock === 'standard' ? -ADJUSTED : 0,
          isStandardGpsTime: facts.clock !== 'week',
          target,
        },
        {
          path: source.path,
          fileName: source.fileName,
          signal,
          onMessage: (beams) => report(Math.min(0.4, 0.01 + (0.39 * (beams as number) * 40) / size), 'Georeferencing'),
        },
      );
      const name = parameters.name ?? source.fileName.replace(/\.[^.]*$/, '');
      const imported = await takeIn(target, name, { pool, job, memory, library })({
        ...context,
        report: (share, step) => report(0.4 + 0.6 * share, step),
      });
      return {
        ...imported,
        outcome: `${formatCount(made.points)} points of ${formatCount(made.beams)} beams of ${source.fileName}`,
        figures: [
          { label: 'Beams', value: made.beams, quantity: 'count' },
          { label: 'Points', value: made.points, quantity: 'count' },
          { label: 'Outside the limits', value: made.outside, quantity: 'count' },
          { label: 'Without a trajectory', value: made.withoutPose, quantity: 'count' },
          ...(made.skipped > 0
            ? [{ label: 'Lines that are no beams', value: made.skipped, quantity: 'count' as const }]
            : []),
          {
            label: 'Height of a point, standard deviation',
            value: `${made.medianHeightAccuracy.toFixed(3)} ${lengthUnits[unit].short}`,
            quantity: 'text',
          },
        ],
      };
    } finally {
      await rm(target, { force: true });
    }
  };
}

export const operation = fileOperation(georeferenceScan, begin);
