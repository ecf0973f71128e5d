import { stageIds } from '../stages.js';
import * as every from './every-operation.js';
import type { OperationDescription } from './operation-description.js';

type Every = (typeof every)[keyof typeof every];
/** Any of the operations, with its own id and parameters. */
export type Operation = Extract<Every, OperationDescription>;
export type OperationId = Operation['id'];

const isOperation = (exported: Every): exported is Operation =>
  typeof exported === 'object' && 'id' in exported && 'parameters' in exported;

/**
 * Every operation there is, stage by stage. The server finds the work of each under its stage and id; forms, API and docs come
 * from here.
 */
export const operations: readonly Operation[] = Object.values(every)
  .filter(isOperation)
  .sort((a, b) => stageIds.indexOf(a.stage) - stageIds.indexOf(b.stage) || (a.id < b.id ? -1 : 1));

export function operationById(id: string): OperationDescription | undefined {
  return operations.find((operation) => operation.id === id);
}

/** Searches for points that are not real, in the order they are best tried. */
export const cleaningOperations = [
  every.findLow,
  every.findIsolated,
  every.findOutliers,
  every.findFloating,
  every.findUnreliable,
] as const;
export type CleaningOperationId = (typeof cleaningOperations)[number]['id'];

export * from './every-operation.js';
export type { OperationDescription, Preset } from './operation-description.js';
