import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { classCodeSchema } from './classes.js';
import { lengthIn } from './length.js';
import { cloudChoice, meta, type OperationDescription } from './operation-description.js';

const cloudId = cloudChoice('The cloud that is cleaned.');
const into = (code: number) =>
  classCodeSchema
    .default(code)
    .meta(
      meta({ label: 'Goes to class', help: 'What is found gets this class; nothing is deleted.', quantity: 'class' }),
    );
const count = (facts: { label: string; help: string }, least: number, most: number, usual: number) =>
  z
    .int()
    .min(least, `${facts.label} cannot be under ${least}.`)
    .max(most, `${facts.label} cannot be over ${most}.`)
    .default(usual)
    .meta(meta({ ...facts, quantity: 'count' }));

export const findIsolated = {
  id: 'find-isolated',
  stage: 'clean',
  title: 'Isolated points',
  does: 'Finds points with too few others about them.',
  method: 'Neighbours counted within a radius; common practice.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloudId,
      radius: lengthIn(unit)({
        label: 'Looks round by',
        help: 'Neighbours are counted this near, in every direction.',
        metres: { default: 1, min: 0.02, max: 50 },
      }),
      leastNeighbours: count({ label: 'Fewer neighbours than', help: 'A point with fewer is isolated.' }, 1, 200, 3),
      toClass: into(7),
    }),
} as const satisfies OperationDescription;

export const findOutliers = {
  id: 'find-outliers',
  stage: 'clean',
  title: 'Outliers by distance',
  does: 'Finds points that are farther from their neighbours than is usual in the cloud.',
  method: 'Rusu et al. 2008, Robotics and Autonomous Systems 56(11), 927-941: mean distance to k neighbours.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloudId,
      neighbours: count({ label: 'Nearest neighbours', help: 'Their distances are averaged.' }, 1, 64, 8),
      deviations: z
        .number()
        .min(0, 'Standard deviations cannot be under 0.')
        .max(100, 'Standard deviations cannot be over 100.')
        .default(3)
        .meta(
          meta({
            label: 'Standard deviations over the mean',
            help: 'Smaller finds more.',
          }),
        ),
      furthest: lengthIn(unit)({
        label: 'Neighbours no further than',
        help: 'A missing neighbour counts with this distance.',
        metres: { default: 10, min: 0.5, max: 100 },
        isAdvanced: true,
      }),
      toClass: into(7),
    }),
} as const satisfies OperationDescription;

export const findLow = {
  id: 'find-low',
  stage: 'clean',
  title: 'Low points',
  does: 'Finds points under the land, alone or in small clusters.',
  method: 'Fewer than a cluster of points at their level, the land all higher; common practice.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId,
      drop: length({
        label: 'Lie under the land by',
        help: 'At least this far; the land may fall away by three in ten.',
        metres: { default: 0.4, min: 0.02, max: 50 },
      }),
      radius: length({
        label: 'Looks round by',
        help: 'The land about a point that it is held against, in plan.',
        metres: { default: 4, min: 0.1, max: 50 },
      }),
      largestCluster: count(
        { label: 'Together, at most', help: 'More points than this are a pit, not low points.' },
        1,
        500,
        8,
      ),
      toClass: into(7),
    });
  },
} as const satisfies OperationDescription;

export const findFloating = {
  id: 'find-floating',
  stage: 'clean',
  title: 'Points off hard surfaces',
  does: 'Finds points that float about roads, roofs and other planes, above or below them.',
  method: 'Trimmed least-squares plane about each point; common practice.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId,
      within: length({
        label: 'Belong to the surface within',
        help: 'Points nearer to the plane than this stay: about three times the ranging noise.',
        metres: { default: 0.1, min: 0.005, max: 5 },
      }),
      radius: length({
        label: 'Looks round by',
        help: 'The piece of surface that a plane is laid through.',
        metres: { default: 1, min: 0.05, max: 20 },
      }),
      hardness: z
        .number()
        .min(0.5, 'The share cannot be under 0.5.')
        .max(1, 'The share cannot be over 1.')
        .default(0.9)
        .meta(
          meta({
            label: 'Share on one plane',
            help: 'Only where this much of what lies about is on one plane is the surface hard.',
            isAdvanced: true,
          }),
        ),
      toClass: into(18),
    });
  },
} as const satisfies OperationDescription;

export const findUnreliable = {
  id: 'find-unreliable',
  stage: 'clean',
  title: 'Low reliability',
  does: 'Finds points that their source is unsure of, where better ones of the same surface lie near.',
  method: 'Confidence against a limit, with a better neighbour within a distance; common practice.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloudId,
      below: z
        .number({ error: 'Confidence below: type a number.' })
        .default(2)
        .meta(
          meta({ label: 'Confidence below', help: 'In the measure of the source; colour by confidence to see it.' }),
        ),
      radius: lengthIn(unit)({
        label: 'Better ones within',
        help: 'Where none lies this near, the point stays: a poor one is better than a hole.',
        metres: { default: 0.5, min: 0.01, max: 20 },
      }),
      toClass: into(7),
    }),
} as const satisfies OperationDescription;

export const cleaningOperations = [findLow, findIsolated, findOutliers, findFloating, findUnreliable] as const;
export type CleaningOperationId = (typeof cleaningOperations)[number]['id'];
