import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { SceneFigures, SceneTask } from './scene-figures.js';

/** Runs each in a thread of its own, as many at once as the machine has; the answers in the tasks' order. */
export function inThreads(tasks: readonly SceneTask[]): Promise<SceneFigures>[] {
  const settle: ((figures: Promise<SceneFigures>) => void)[] = [];
  const results = tasks.map((_, k) => new Promise<SceneFigures>((done) => (settle[k] = done)));
  let next = 0;
  const lane = async (): Promise<void> => {
    while (next < tasks.length) {
      const k = next++;
      const answer = new Promise<SceneFigures>((done, fail) => {
        const worker = new Worker(new URL('scene-worker.js', import.meta.url), { workerData: tasks[k] });
        worker.once('message', done);
        worker.once('error', fail);
      });
      settle[k]!(answer);
      await answer.catch(() => undefined);
    }
  };
  for (let lanes = Math.min(tasks.length, availableParallelism()); lanes > 0; lanes--) void lane();
  return results;
}
