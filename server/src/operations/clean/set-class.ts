import { asSelection, setClass } from '@pampero/contract';
import { serverOperation } from '../server-operation.js';
import { selectionTold } from './describe-selection.js';
import { markWork } from './hand-edits.js';

export const operation = serverOperation(
  setClass,
  ({ selection, classCode }, { pool }) =>
    markWork(
      pool,
      asSelection(selection),
      { classCode },
      (count, nameOf) => `${count} to ${classCode} ${nameOf(classCode)}`,
    ),
  selectionTold,
);
