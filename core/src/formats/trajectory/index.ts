export {
  fromGeocentric,
  placesOf,
  turnToGrid,
  trajectoryColumn,
  TRAJECTORY_NAMES,
  trajectoryOf,
  type IntoPlan,
  type TrajectoryConvention,
} from './read-trajectory.js';
export { writeTrajectory } from './write-trajectory.js';
