import { z } from 'zod';
import { pointExportSchema } from '../exports.js';
import { operations } from '../operations/index.js';
import { cloudNodesSchema, cloudReportSchema, cloudSchema, windowSchema } from '../resources/cloud.js';
import {
  suspectAreaSchema,
  objectGroupSchema,
  groundPreviewSchema,
  settingsProposalSchema,
} from '../resources/found.js';
import { controlLookSchema } from '../resources/control.js';
import { jobIdSchema } from '../resources/job.js';
import { patchRequestSchema, patchSchema, selectionCountSchema, selectionSchema } from '../selections.js';
import { BYTES, id, job, ofJob, type Endpoint } from './endpoint.js';

/** Attributes a viewer colours by. */
export const SHOWN_COLUMNS = [
  'intensity',
  'returns',
  'scanAngle',
  'pointSourceId',
  'gpsTime',
  'colour',
  'infrared',
  'confidence',
  'accuracy',
] as const;

/** Clouds: their points, what they tell, what is selected of them. */
export const cloudEndpoints = {
  readCloud: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}',
    summary: 'A cloud.',
    params: ofJob('cloudId'),
    status: 200,
    response: cloudSchema,
  },
  readCloudReport: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/report',
    summary: 'What was gathered of a cloud as it came in: findings, histograms, density.',
    params: ofJob('cloudId'),
    status: 200,
    response: cloudReportSchema,
  },
  proposeSettings: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/proposals/{operation}',
    summary:
      'Settings of an operation proposed from the cloud itself, with the reasons; empty where it has no way to. What a script leaves out when it starts the operation is filled in from here.',
    params: ofJob('cloudId').extend({ operation: z.enum(operations.map(({ id }) => id) as [string, ...string[]]) }),
    status: 200,
    response: settingsProposalSchema,
  },
  listObjects: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/objects',
    summary: 'What stands on the ground of a cloud, thing by thing, the least sure first.',
    params: ofJob('cloudId'),
    status: 200,
    response: z.array(objectGroupSchema),
  },
  previewGround: {
    method: 'post',
    path: '/jobs/{jobId}/clouds/{cloudId}/ground-preview',
    summary: 'What settings for ground would change in a window, or where they differ from other settings.',
    params: ofJob('cloudId'),
    body: z.strictObject({
      window: z.strictObject({ west: z.number(), south: z.number(), east: z.number(), north: z.number() }),
      parameters: z.record(z.string(), z.unknown()),
      against: z.record(z.string(), z.unknown()).optional(),
    }),
    status: 200,
    response: groundPreviewSchema,
  },
  listSuspectAreas: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/suspect-areas',
    summary: 'Areas where the ground of a cloud is most likely wrong, the worst first.',
    params: ofJob('cloudId'),
    status: 200,
    response: z.array(suspectAreaSchema),
  },
  readWindow: {
    method: 'post',
    path: '/jobs/{jobId}/clouds/{cloudId}/window',
    summary: 'What lies within an outline: how many points, of which classes, how high.',
    params: ofJob('cloudId'),
    body: z.strictObject({
      outline: z
        .array(z.tuple([z.number(), z.number()]))
        .min(3)
        .max(100_000),
      classes: z.array(z.int().min(0).max(255)).optional(),
    }),
    status: 200,
    response: windowSchema,
  },
  lookAtControl: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/control',
    summary: 'Every surveyed point with the cloud’s elevation there, and what the differences have in common.',
    params: ofJob('cloudId'),
    status: 200,
    response: controlLookSchema,
  },
  listNodes: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/nodes',
    summary: 'The nodes of a cloud, coarse to fine.',
    params: ofJob('cloudId'),
    status: 200,
    response: cloudNodesSchema,
  },
  readNodeGeometry: {
    method: 'get',
    path: '/jobs/{jobId}/nodes/{nodeId}/geometry',
    summary:
      'A node’s x, y, z as scaled 32-bit integers, column after column; of the positions the cloud is shown at, or of one set.',
    params: ofJob('nodeId'),
    query: z.strictObject({ positions: z.coerce.number().int().min(0).optional() }),
    status: 200,
    responseType: BYTES,
  },
  readNodeClass: {
    method: 'get',
    path: '/jobs/{jobId}/nodes/{nodeId}/class',
    summary: 'A node’s classes, then its flags, a byte a point each.',
    params: ofJob('nodeId'),
    query: z.strictObject({ revision: z.coerce.number().int().optional() }),
    status: 200,
    responseType: BYTES,
  },
  readNodeColumn: {
    method: 'get',
    path: '/jobs/{jobId}/nodes/{nodeId}/columns/{column}',
    summary:
      'One attribute of a node’s points, column by column; colours are red, green and blue after one another, infrared is near infrared and red.',
    params: z.strictObject({ jobId: jobIdSchema, nodeId: id, column: z.enum(SHOWN_COLUMNS) }),
    query: z.strictObject({ colours: z.coerce.number().int().min(0).optional() }),
    status: 200,
    responseType: BYTES,
  },
  countSelection: {
    method: 'post',
    path: '/jobs/{jobId}/selection/count',
    summary: 'How many points a selection holds, by class.',
    params: job,
    body: z.strictObject({ selection: selectionSchema }),
    status: 200,
    response: selectionCountSchema,
  },
  growPatch: {
    method: 'post',
    path: '/jobs/{jobId}/selection/patch',
    summary: 'The connected patch of points alike, from one that was touched.',
    params: job,
    body: patchRequestSchema,
    status: 200,
    response: patchSchema,
  },
  exportPoints: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/points',
    summary: 'The cloud with its present classes as a file: LAS, LAZ, COPC, E57, PLY, XYZ or CSV.',
    params: ofJob('cloudId'),
    query: pointExportSchema,
    status: 200,
    responseType: BYTES,
  },
} as const satisfies Record<string, Endpoint>;
