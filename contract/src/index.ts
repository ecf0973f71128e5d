import './plain-faults.js';
export {
  describeParameters,
  lengthIn,
  lengthInUnit,
  parameterFields,
  presetValues,
  stateUnit,
  referencesOf,
  withReferences,
  type ParameterField,
  type ParameterMeta,
  type Names,
  type Referable,
  type Reference,
} from './parameters/index.js';
export * from './operations/index.js';
export * from './sensor-file.js';
export {
  describeProduct,
  formatsOf,
  inputSchema,
  isKind,
  kindById,
  PICTURE_TILE,
  PRODUCT_KINDS,
  productKindIds,
  RECIPIENTS,
  productSchema,
  profileSchema,
  sectionsSchema,
  spotPointSchema,
  TILE_PARTS,
  maskPreviewSchema,
  maskRingSchema,
  type MaskPreview,
  type MaskRingResource,
  tileShiftSchema,
  type FactsOf,
  type FileFormat,
  type FormatOf,
  type KindOf,
  type Photograph,
  type Product,
  type ProductInput,
  type ProductKind,
  type ProductKindId,
  type ProductOf,
  type Recipient,
  type DifferenceFigures,
  type ProfileResource,
  type Strip,
  type StripAgreement,
  type SectionsResource,
  type SpotPoint,
  type TilePart,
  newestLand,
} from './products/index.js';
export { stageIds, stages, stageSchema } from './stages.js';
export type { Stage, StageFacts } from './stages.js';
export { figureSchema, formatFigure, formatSeconds, formatShare, formatTimeLeft, type Figure } from './figures.js';
export {
  boundsSchema,
  cloudNodeSchema,
  cloudNodesSchema,
  cloudReportSchema,
  cloudSchema,
  windowSchema,
} from './resources/cloud.js';
export { controlLookSchema, controlPointSchema, controlRoleSchema } from './resources/control.js';
export { crsEntrySchema, crsSchema, lengthUnitSchema } from './resources/crs.js';
export {
  suspectAreaSchema,
  groundPreviewSchema,
  settingsProposalSchema,
  objectGroupSchema,
  surfaceFaultSchema,
} from './resources/found.js';
export { historyEntrySchema, historySchema, runSchema } from './resources/history.js';
export { jobEventSchema, workbenchSchema } from './resources/workbench.js';
export { jobIdSchema, jobSchema, unreadableJobSchema, newJobSchema } from './resources/job.js';
export { problemSchema } from './resources/problem.js';
export type { Cloud, CloudNode, CloudReport, CloudWindow } from './resources/cloud.js';
export type { ControlLook, ControlPoint } from './resources/control.js';
export type { Crs, CrsEntry } from './resources/crs.js';
export type {
  SuspectAreaResource,
  GroundPreview,
  SettingsProposal,
  ObjectGroupResource,
  SurfaceFaultResource,
} from './resources/found.js';
export type { History, HistoryEntry, Run } from './resources/history.js';
export type { Holdings, JobEvent, Workbench } from './resources/workbench.js';
export type { Job, UnreadableJob, NewJob } from './resources/job.js';
export type { Problem } from './resources/problem.js';
export { textColumnSchema, textLayoutSchema } from './text-layout.js';
export { POINT_FILE_FORMATS, POINT_FILES, pointExportSchema } from './exports.js';
export type { PointExport, PointFileFormat } from './exports.js';
export { endpoints, SHOWN_COLUMNS } from './endpoints/index.js';
export type {
  cloudEndpoints,
  handOverEndpoints,
  intakeEndpoints,
  jobEndpoints,
  productEndpoints,
  runEndpoints,
  runSheetEndpoints,
  shareEndpoints,
} from './endpoints/index.js';
export type { Endpoint, EndpointId, KeptSheet, Share } from './endpoints/index.js';
export { newPinSchema, pinSchema } from './pins.js';
export type { NewPin, Pin } from './pins.js';
export { openApiDocument } from './open-api.js';
export {
  crsChoiceSchema,
  fileLookSchema,
  folderSchema,
  geoidSchema,
  heightsSchema,
  incomingFileSchema,
} from './incoming.js';
export type { CrsChoice, FileLook, Finding, Folder, Geoid, IncomingFile } from './incoming.js';
export { classCodeSchema, jobClassSchema } from './classes.js';
export {
  BREAK_CODES,
  foundLineSchema,
  proposalSchema,
  type FoundLine,
  type Proposal,
} from './operations/lines/break-parameters.js';
export { codeNameSchema, featureCodeSchema, putLineSchema, type PutLineRequest } from './feature-codes.js';
export type { JobClass } from './classes.js';
export {
  asSelection,
  patchRequestSchema,
  patchSchema,
  selectionCountSchema,
  selectionSchema,
  visibleSchema,
} from './selections.js';
export type { Patch, PatchRequest, SelectionCount } from './selections.js';
export * from './run-sheets/index.js';
export {
  handedOverSchema,
  handOverItemSchema,
  handOverSchema,
  itemsFor,
  NAME_PARTS,
  type HandedOver,
  type HandOver,
  type HandOverInput,
  type HandOverItem,
} from './hand-over.js';
export {
  clientViewOptionsSchema,
  type ClientViewFacts,
  type ClientViewOptions,
  type ClientViewOptionsInput,
} from './client-view.js';
export {
  REPORT_PART_NAMES,
  REPORT_PARTS,
  reportOptionsSchema,
  type ReportOptions,
  type ReportOptionsInput,
  type ReportPart,
} from './report.js';
