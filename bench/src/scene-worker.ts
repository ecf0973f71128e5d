import { parentPort, workerData } from 'node:worker_threads';
import { sceneFigures } from './scene-figures.js';

/** One scene of one seed, in a thread of its own. */
const { name, seed, methods } = workerData as { name: string; seed: number; methods: readonly string[] };
parentPort!.postMessage(sceneFigures(name, seed, methods));
