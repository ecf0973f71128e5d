import { asSelection, withhold } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { serverOperation } from '../server-operation.js';
import { selectionTold } from './describe-selection.js';
import { markWork } from './hand-edits.js';

export const operation = serverOperation(
  withhold,
  ({ selection }, { pool }) =>
    markWork(pool, asSelection(selection), { setFlags: PointFlag.withheld }, (count) => `${count} withheld`),
  selectionTold,
);
