import type { TaskName } from '../tasks/task-pool.js';

/**
 * Tasks that are worth the way to another machine: pieces of a cloud with much to compute. The others are over before their
 * points would have arrived, or read files of this machine.
 */
export const TRAVELLING: ReadonlySet<TaskName> = new Set<TaskName>([
  'classify',
  'cleanTile',
  'fitPlanes',
  'nearSums',
  'neighbourDistances',
  'objectsOfTile',
  'overlapOfTile',
  'patchPairs',
  'patchRoughness',
  'smoothTile',
  'thinTile',
  'tileLoneliness',
]);
