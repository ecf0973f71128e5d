export { ensureDemoFiles } from './demo-files.js';
export type { DemoFiles } from './demo-files.js';
export { flyFarm } from './farm/farm.js';
export { flyLidar, QUANTISATION } from './simulation/lidar-flight.js';
export { pnezd, surveyedPoints } from './farm/control.js';
export type { SurveyedPoint } from './farm/control.js';
export { CORNER, EXTENT, groundElevation, waterElevation } from './farm/terrain.js';
export { SCENES, surveyScene, type SurveyedScene } from './scenes/index.js';
