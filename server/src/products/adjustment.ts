import { sensorOfSettings, type FactsOf } from '@pampero/contract';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { writeTrajectory } from '@pampero/core/formats/trajectory';
import type { LengthUnit } from '@pampero/core/geodesy';
import { correctedTrajectory, toDegrees, type Correction, type Trajectory } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import type { Models } from '../store/models.js';
import { georeferencedWith } from '../store/sensor-of-cloud.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'adjustment'> = {
  kind: 'adjustment',
  async shown(models, id, { part }) {
    const maps = await readShownPart(models, 'adjustment', id, 'maps');
    if (part !== 'before') return { packed: maps };
    const { arrays, facts } = unpackArrays(maps);
    return { packed: packArrays({ elevation: arrays['before'] as Float32Array }, facts) };
  },
  writers: {
    sensor: async ({ job, models }, { name, facts }) => ({
      bytes: JSON.stringify(await adjustedSensor(models, facts, job.unit, name), null, 2),
    }),
    trajectory: async ({ models }, { name, facts }) => {
      if (facts.trajectoryId === undefined)
        throw new PamperoError('needs-trajectory', {
          what: `${name} was reckoned without a trajectory, so there is none to correct.`,
          fix: 'Import the trajectory of the flight and adjust again, or hand over the corrected cloud.',
        });
      const { arrays } = unpackArrays(await readProductBlob(models, facts.trajectoryId, 'records'));
      const corrected = correctedTrajectory(arrays as unknown as Trajectory, facts.correction as unknown as Correction);
      return { pieces: writeTrajectory(corrected) };
    },
    pdf: async ({ job, models }, product) => {
      const { arrays } = unpackArrays(await readProductBlob(models, product.id, 'maps'));
      const maps = { before: arrays['before'] as Float32Array, after: arrays['elevation'] as Float32Array };
      const { adjustmentPdf } = await import('./adjustment-report.js');
      return { stream: adjustmentPdf(job, product, maps) };
    },
    csv: async ({ job }, product) => ({ bytes: (await import('./adjustment-report.js')).adjustmentCsv(job, product) }),
    json: ({ job }, { name, madeAt, facts }) =>
      Promise.resolve({
        bytes: JSON.stringify(
          {
            name,
            made: madeAt,
            lengths: job.unit,
            angles: 'radians',
            stripNames: facts.stripNames,
            ...facts.correction,
          },
          null,
          2,
        ),
      }),
  },
};

/** The sensor with what was found of it: angles of under a degree add. */
async function adjustedSensor(
  models: Models,
  { cloudId, correction: c }: FactsOf<'adjustment'>,
  unit: LengthUnit,
  name: string,
) {
  const was = await georeferencedWith(models, cloudId);
  const [forward, right, down] = c.leverArm.map((value, axis) => value + c.leverArmChange[axis]!);
  const [roll, pitch, heading] = c.boresight.map(toDegrees);
  return sensorOfSettings(
    {
      ...was,
      leverForward: forward!,
      leverRight: right!,
      leverDown: down!,
      boresightRoll: (was?.boresightRoll ?? 0) + roll!,
      boresightPitch: (was?.boresightPitch ?? 0) + pitch!,
      boresightHeading: (was?.boresightHeading ?? 0) + heading!,
      rangeOffset: (was?.rangeOffset ?? 0) + c.rangeOffset,
      rangeScale: (was?.rangeScale ?? 0) + 1e6 * c.rangeScale,
      angleScale: (was?.angleScale ?? 0) + 1e6 * c.angleScale,
    },
    unit,
    name,
  );
}
