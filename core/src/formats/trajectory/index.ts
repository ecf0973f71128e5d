export {
  fromGeocentric,
  trajectoryColumn,
  TRAJECTORY_NAMES,
  trajectoryOf,
  type IntoPlan,
  type TrajectoryConvention,
} from './read-trajectory.js';
export { writeTrajectory } from './write-trajectory.js';
