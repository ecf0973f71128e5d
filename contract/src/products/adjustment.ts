import { UNKNOWN_GROUPS } from '@pampero/core/strips';
import { z } from 'zod';
import { productKind } from './product-kind.js';
import { stripAgreementSchema } from './strip-differences.js';

const three = z.tuple([z.number(), z.number(), z.number()]);

/** What is done to the points: see `Correction` in the core. Lengths in job units, angles in radians. */
export const correctionSchema = z.strictObject({
  leverArm: three,
  boresight: three,
  leverArmChange: three,
  rangeOffset: z.number(),
  rangeScale: z.number(),
  angleScale: z.number(),
  strips: z.array(z.strictObject({ shift: three, tilt: three, drift: three })),
  spans: z.array(z.strictObject({ from: z.number(), to: z.number() })),
  spline: z
    .strictObject({
      start: z.number(),
      step: z.number(),
      count: z.int(),
      values: z.array(z.array(z.number())).length(6),
    })
    .optional(),
});

export const controlResidualSchema = z.strictObject({
  number: z.string(),
  strip: z.string(),
  /** The strip's surface less the survey. */
  before: z.number(),
  after: z.number(),
  /** Kept out of the adjustment, to judge it by. */
  isKeptOut: z.boolean(),
});

export const adjustment = productKind({
  id: 'adjustment',
  name: { one: 'Strip adjustment', many: 'Strip adjustments' },
  facts: z.strictObject({
    cloudId: z.int(),
    /** The positions it was reckoned from: it fits no others. */
    positions: z.int(),
    trajectoryId: z.int().optional(),
    stripsId: z.int().optional(),
    stripNames: z.array(z.string()),
    groups: z.array(z.enum(UNKNOWN_GROUPS)),
    unknowns: z.array(
      z.strictObject({
        group: z.enum(UNKNOWN_GROUPS),
        /** What it is, in words: "Boresight, roll". */
        label: z.string(),
        /** Degrees, job units or parts per million. */
        unit: z.string(),
        value: z.number(),
        standardDeviation: z.number(),
        isHeld: z.boolean(),
      }),
    ),
    correlated: z.array(z.strictObject({ one: z.string(), two: z.string(), correlation: z.number() })),
    before: stripAgreementSchema,
    after: stripAgreementSchema,
    /** What the ranging noise alone would leave. */
    expected: z.number(),
    observations: z.int(),
    doubted: z.int(),
    rounds: z.int(),
    control: z.array(controlResidualSchema),
    accuracyClass: z.number(),
    limits: z.strictObject({ within: z.number(), between: z.number(), largest: z.number() }),
    remarks: z.array(z.string()),
    correction: correctionSchema,
    /** Seconds to add to the cloud's times to have the trajectory's. */
    timeShift: z.number(),
    map: z.strictObject({ east: z.number(), north: z.number(), cell: z.number(), columns: z.int(), rows: z.int() }),
  }),
  describe: ({ before, after }) =>
    `Strip adjustment, RMSDz ${before.all.rmsd.toFixed(3)} to ${after.all.rmsd.toFixed(3)}`,
  formats: [
    { id: 'pdf', label: 'PDF', ending: '.pdf', mediaType: 'application/pdf', suits: ['client'] },
    { id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv' },
    { id: 'json', label: 'Corrections, JSON', ending: '.json', mediaType: 'application/json' },
    { id: 'sensor', label: 'Sensor, JSON', ending: '-sensor.json', mediaType: 'application/json' },
    { id: 'trajectory', label: 'Trajectory, text', ending: '-trajectory.csv', mediaType: 'text/csv' },
  ],
  cannotRebuild: () => 'it belongs to the positions it was reckoned from; adjust again',
});
