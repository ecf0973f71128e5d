import { jobEndpoints } from './job-endpoints.js';
import { handOverEndpoints } from './hand-over-endpoints.js';
import { shareEndpoints } from './share-endpoints.js';
import { runSheetEndpoints } from './run-sheet-endpoints.js';
import { runEndpoints } from './run-endpoints.js';
import { intakeEndpoints } from './intake-endpoints.js';
import { cloudEndpoints } from './cloud-endpoints.js';
import { productEndpoints } from './product-endpoints.js';
import type { Endpoint } from './endpoint.js';

export { SHOWN_COLUMNS } from './cloud-endpoints.js';
export type { Share } from './share-endpoints.js';
export type { KeptSheet } from './run-sheet-endpoints.js';
export type { Endpoint } from './endpoint.js';

/** Every call of the API. */
export const endpoints = {
  ...jobEndpoints,
  ...runEndpoints,
  ...runSheetEndpoints,
  ...intakeEndpoints,
  ...cloudEndpoints,
  ...productEndpoints,
  ...handOverEndpoints,
  ...shareEndpoints,
} as const satisfies Record<string, Endpoint>;

export type EndpointId = keyof typeof endpoints;

export {
  cloudEndpoints,
  handOverEndpoints,
  shareEndpoints,
  intakeEndpoints,
  jobEndpoints,
  productEndpoints,
  runEndpoints,
  runSheetEndpoints,
};
