export { lookAtTable, type TableLook } from './look-at-table.js';
export {
  checkColumnNames,
  neededColumn,
  numberOf,
  readBinaryTable,
  readColumnNames,
  readFields,
  readTextTable,
  UNUSED,
  type FieldType,
  type NumberTable,
  type RecordField,
} from './number-table.js';
