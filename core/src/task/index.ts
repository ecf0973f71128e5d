export { Cancelled, checkCancelled } from './cancelled.js';
export { noProgress } from './progress.js';
export type { Progress } from './progress.js';
export { seededRandom } from './seeded-random.js';
export { PamperoError } from './pampero-error.js';
export type { ErrorFacts } from './pampero-error.js';
