export { smoothNoise } from './simulation/smooth-noise.js';
export { ensureDemoFiles, ORTHOPHOTO_SHIFT } from './demo-files.js';
export { madeApart, type MadeApart } from './made-apart.js';
export { ensureFeetFiles, type FeetFiles } from './feet-files.js';
export { ensurePhotographs, writePhotographCloud } from './photograph-files.js';
export {
  ensureFrames,
  FRAME_CAMERA,
  frameCamera,
  framePoses,
  packFrames,
  paintedFarm,
  type Frame,
} from './frame-files.js';
export { LandPhotographer, type PaintedLand } from './simulation/photograph.js';
export type { DemoFiles } from './demo-files.js';
export { ensureFlightFiles, FLIGHT_ERRORS, writeScan, type FlightFiles } from './flight-files.js';
export { flyRaw, type FlightErrors, type RawFlight } from './simulation/raw-flight.js';
export { farm, flyFarm } from './farm/farm.js';
export { flyLidar, QUANTISATION } from './simulation/lidar-flight.js';
export { pnezd, surveyedPoints } from './farm/control.js';
export type { SurveyedPoint } from './farm/control.js';
export { CORNER, EXTENT, groundElevation, waterElevation } from './farm/terrain.js';
export { renderOrthophoto, type Orthophoto } from './simulation/orthophoto.js';
export type { Scene } from './simulation/scene.js';
export { sceneOf, SCENES, surveyScene, type SurveyedScene } from './scenes/index.js';
export { parcels, parcelService, type Parcel } from './parcel-service.js';
