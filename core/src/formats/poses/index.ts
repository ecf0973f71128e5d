export { POSE_NAMES, posesOf, readPoses, type ListedPoses, type PoseConvention, type PoseList } from './read-poses.js';
