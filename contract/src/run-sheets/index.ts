export { pathText, readRunSheet, type SheetFault } from './check-sheet.js';
export {
  GATE_RULES,
  POINT_FORMATS,
  RUN_SHEET_FORMAT,
  RUN_SHEET_VERSION,
  ruleOf,
  rulesIn,
  runSheetSchema,
  type GateStep,
  type RunSheet,
  type RunSheetInput,
  type SheetPlace,
  type SheetRule,
  type SheetStep,
  type WorkStep,
} from './run-sheet.js';
export { sheetFromSteps, type DoneStep, type LeftOutStep } from './sheet-from-steps.js';
export {
  acceptStepSchema,
  givenPlacesSchema,
  newSheetRunSchema,
  sheetRunSchema,
  type GivenPlaces,
  type SheetRun,
  type SheetRunStep,
} from './sheet-run.js';
