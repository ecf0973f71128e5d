export { distort, undistort, widestAngle, type Camera } from './camera.js';
export { ANGLE_CONVENTIONS, axesOf, omegaPhiKappa, type AngleConvention, type Mounting, type Pose } from './pose.js';
export { Projector, type Box } from './projector.js';
export { depthFrame, DepthPicture, NOTHING_SEEN, type DepthFrame } from './depth-picture.js';
export { SeenBest, type ColourSource, type SeeingPhotograph } from './seen-best.js';
export { agreementOf, OverlapSums, type Agreement, type PairSums } from './overlaps.js';
export { balanceGains } from './balance-gains.js';
