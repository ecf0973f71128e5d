export { startServer } from './server.js';
export type { RunningServer } from './server.js';
export { readSettings } from './settings.js';
export type { Settings } from './settings.js';
export { ensureDemoJob } from './demo-job.js';
