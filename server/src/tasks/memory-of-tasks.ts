import type { TaskInput, TaskName, WithoutPort } from './task-types.js';

/** Bytes that building a TIN holds for each vertex with its results, and settling ground for each cell: measured at a few millions. */
const [VERTEX, CELL] = [330, 170];

type Measured = { readonly [N in TaskName]?: (task: WithoutPort<TaskInput<N>>) => number };

/** Bytes that each of the tasks holds that do not work on a piece of a cloud but on the whole of something. */
const bytesOf: Measured = {
  buildTin: ({ thinned, clouds }) => VERTEX * (thinned?.points.easting.length ?? pointsOf(clouds)),
  settle: ({ raster }) => CELL * raster.lowest.length,
  settleAgain: ({ raster }) => CELL * raster.lowest.length,
};

function pointsOf(clouds: TaskInput<'buildTin'>['clouds']): number {
  return clouds.reduce((sum, { nodes }) => sum + nodes.reduce((points, { count }) => points + count, 0), 0);
}

/** What a task holds beside what every thread does, megabytes; 0 for one that works on a piece. */
export function megabytesOf<N extends TaskName>(name: N, task: WithoutPort<TaskInput<N>>): number {
  return (bytesOf[name]?.(task) ?? 0) / 1e6;
}

/** What a run that waits for it says it does. */
export const WAITING = 'Waiting until other work has given memory back';
