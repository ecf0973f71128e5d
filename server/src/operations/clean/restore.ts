import { asSelection, restore } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { serverOperation } from '../server-operation.js';
import { selectionTold } from './describe-selection.js';
import { markWork } from './hand-edits.js';

export const operation = serverOperation(
  restore,
  ({ selection }, { pool }) =>
    markWork(pool, asSelection(selection), { clearFlags: PointFlag.withheld }, (count) => `${count} restored`),
  selectionTold,
);
