export { agreementCounts, agreementOf } from './agreement.js';
export type { Agreement } from './agreement.js';
