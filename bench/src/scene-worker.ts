import { parentPort, workerData } from 'node:worker_threads';
import { sceneFigures, type SceneTask } from './scene-figures.js';

parentPort!.postMessage(sceneFigures(workerData as SceneTask));
