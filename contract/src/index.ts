export { lengthIn } from './length.js';
export type { ParameterMeta } from './length.js';
export { carryClasses, findBridges, findGround, findObjects, findWater } from './classify-operations.js';
export {
  importCloud,
  importControl,
  importLines,
  LINE_FORMATS,
  importGrid,
  importSurface,
} from './intake-operations.js';
export type { ImportGridParameters, ImportSurfaceParameters } from './intake-operations.js';
export {
  buildSurface,
  drawContours,
  drawProfile,
  editSurface,
  makeGrid,
  measureVolume,
  stateAccuracy,
} from './terrain-operations.js';
export { editPoints, numberPoints, thinCloud } from './thinning-operations.js';
export { operationById, operations } from './operations.js';
export type {
  BuildSurfaceParameters,
  CarryClassesParameters,
  DrawContoursParameters,
  DrawProfileParameters,
  EditSurfaceParameters,
  FindGroundParameters,
  FindObjectsParameters,
  FindBridgesParameters,
  FindWaterParameters,
  MakeGridParameters,
  MeasureVolumeParameters,
  StateAccuracyParameters,
  NumberPointsParameters,
  EditPointsParameters,
  OperationId,
  ThinCloudParameters,
} from './operations.js';
export type { OperationDescription, Preset } from './operation-description.js';
export { parameterFields, presetValues, type ParameterField } from './parameter-fields.js';
export { stageIds, stages, stageSchema } from './stages.js';
export type { Stage, StageFacts } from './stages.js';
export {
  boundsSchema,
  cloudNodeSchema,
  cloudNodesSchema,
  cloudReportSchema,
  cloudSchema,
  controlLookSchema,
  controlPointSchema,
  controlRoleSchema,
  contourSetSchema,
  crsEntrySchema,
  crsSchema,
  figureSchema,
  groundDoubtSchema,
  groundPreviewSchema,
  profileSchema,
  surfaceFaultSchema,
  spotPointSchema,
  groundProposalSchema,
  historyEntrySchema,
  historySchema,
  jobEventSchema,
  jobIdSchema,
  jobSchema,
  lengthUnitSchema,
  newJobSchema,
  objectGroupSchema,
  problemSchema,
  productSchema,
  runSchema,
  surfaceSchema,
  windowSchema,
  workbenchSchema,
} from './resources.js';
export type {
  Cloud,
  CloudReport,
  ControlLook,
  ControlPoint,
  GroundDoubtResource,
  ObjectGroupResource,
  GroundPreview,
  ProfileResource,
  SurfaceFaultResource,
  SpotPoint,
  Product,
  GroundProposalResource,
  CloudNode,
  ContourSetResource,
  Crs,
  CrsEntry,
  Figure,
  History,
  HistoryEntry,
  Job,
  JobEvent,
  NewJob,
  Problem,
  Run,
  Surface,
  CloudWindow,
  Workbench,
} from './resources.js';
export { textColumnSchema, textLayoutSchema } from './text-layout.js';
export { PRODUCT_FILE_FORMATS, POINT_FILE_FORMATS, pointExportSchema } from './exports.js';
export type { ProductFileFormat, PointExport, PointFileFormat } from './exports.js';
export { endpoints, SHOWN_COLUMNS } from './endpoints/index.js';
export { newPinSchema, pinSchema } from './pins.js';
export type { NewPin, Pin } from './pins.js';
export type { Endpoint, EndpointId } from './endpoints/index.js';
export { openApiDocument } from './open-api.js';
export {
  crsChoiceSchema,
  fileLookSchema,
  folderSchema,
  geoidSchema,
  heightsSchema,
  importRequestSchema,
  incomingFileSchema,
} from './incoming.js';
export type { CrsChoice, FileLook, Finding, Folder, Geoid, ImportRequest, IncomingFile } from './incoming.js';
export { classCodeSchema, jobClassSchema } from './classes.js';
export type { JobClass } from './classes.js';
export { copyToCloud, editClasses, handOperations, restore, setClass, withhold } from './hand-operations.js';
export type { SetClassParameters } from './hand-operations.js';
export {
  asSelection,
  patchRequestSchema,
  patchSchema,
  selectionCountSchema,
  selectionSchema,
  visibleSchema,
} from './selections.js';
export type { Patch, PatchRequest, SelectionCount } from './selections.js';
export {
  cleaningOperations,
  findFloating,
  findIsolated,
  findLow,
  findOutliers,
  findUnreliable,
} from './cleaning-operations.js';
export type { CleaningOperationId } from './cleaning-operations.js';
