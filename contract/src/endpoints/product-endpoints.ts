import { z } from 'zod';
import { maskPreviewSchema, productSchema, TILE_PARTS } from '../products/index.js';
import { surfaceFaultSchema } from '../resources/found.js';
import { BYTES, id, job, ofJob, type Endpoint } from './endpoint.js';

/** What was made in a job, to be shown or handed over. */
export const productEndpoints = {
  readProduct: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}',
    summary: 'A product: what it is, what it was made from, and whether that has changed since.',
    params: ofJob('productId'),
    status: 200,
    response: productSchema,
  },
  showProduct: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}/shown',
    summary:
      'What the screen shows of a product: JSON for lines, profiles and numbered points; packed arrays for surfaces, grids and contours. Of a surface that differs little from one already read (since), the part that differs. Of maps of strips, one of them (part): before, after, or the place of a pair in the list.',
    params: ofJob('productId'),
    query: z.strictObject({ since: id.optional(), part: z.string().max(20).optional() }),
    status: 200,
    responseType: BYTES,
  },
  readPictureTile: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}/tiles/{part}/{level}/{x}/{y}',
    summary:
      'A tile of a picture as JPEG or PNG; level 0 is the picture itself, each next one half of it. Empty where there is none.',
    params: z.strictObject({
      ...ofJob('productId').shape,
      part: z.enum(TILE_PARTS),
      level: z.coerce.number().int().min(0).max(40),
      x: z.coerce.number().int().min(0),
      y: z.coerce.number().int().min(0),
    }),
    status: 200,
    responseType: BYTES,
  },
  previewMask: {
    method: 'post',
    path: '/jobs/{jobId}/products/{productId}/mask-preview',
    summary:
      'What a mask by colour would be on a picture in a window, seen before it is made; the body has the parameters of the operation, its picture left out.',
    params: ofJob('productId'),
    body: z.strictObject({
      window: z.strictObject({ west: z.number(), south: z.number(), east: z.number(), north: z.number() }),
      parameters: z.record(z.string(), z.unknown()),
    }),
    status: 200,
    response: maskPreviewSchema,
  },
  sectionOfAdjustment: {
    method: 'post',
    path: '/jobs/{jobId}/products/{productId}/section',
    summary:
      'A section through the strips as they are and as an adjustment would have them: packed arrays of distances along it, elevations before and after, and strips.',
    params: ofJob('productId'),
    body: z
      .strictObject({
        a: z.tuple([z.number(), z.number()]),
        b: z.tuple([z.number(), z.number()]),
        depth: z.number().positive().max(10_000),
      })
      .refine(({ a, b }) => a[0] !== b[0] || a[1] !== b[1], {
        error: 'The section begins where it ends.',
        path: ['b'],
      }),
    status: 200,
    responseType: BYTES,
  },
  exportProduct: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}/file',
    summary: 'A product as a file. The answer to a format that its kind does not have names those that it has.',
    params: ofJob('productId'),
    query: z.strictObject({ format: z.string().min(1).max(40) }),
    status: 200,
    responseType: BYTES,
  },
  exportLines: {
    method: 'get',
    path: '/jobs/{jobId}/lines',
    summary: 'All lines of a job in one file, in a format of the kind “lines”.',
    params: job,
    query: z.strictObject({ format: z.string().min(1).max(40) }),
    status: 200,
    responseType: BYTES,
  },
  findSurfaceFaults: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}/faults',
    summary: 'Spikes, pits and holes of a surface, the worst first.',
    params: ofJob('productId'),
    status: 200,
    response: z.array(surfaceFaultSchema),
  },
  readSurfaceWindow: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}/window',
    summary: 'A surface sampled in a window at a cell size of one’s own, for display close up.',
    params: ofJob('productId'),
    query: z.strictObject({
      west: z.coerce.number(),
      south: z.coerce.number(),
      east: z.coerce.number(),
      north: z.coerce.number(),
      cell: z.coerce.number().positive(),
    }),
    status: 200,
    responseType: BYTES,
  },
  readSurfaceEdges: {
    method: 'post',
    path: '/jobs/{jobId}/products/{productId}/edges',
    summary:
      'Edges of a surface’s triangles in a window: packed arrays of vertices and pairs of them; none where there are too many.',
    params: ofJob('productId'),
    body: z.strictObject({ west: z.number(), south: z.number(), east: z.number(), north: z.number() }),
    status: 200,
    responseType: BYTES,
  },
} as const satisfies Record<string, Endpoint>;
