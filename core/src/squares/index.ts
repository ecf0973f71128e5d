export {
  layOutSquares,
  squareAt,
  squaresAbout,
  squaresTouched,
  withMargin,
  type Square,
  type SquareLayout,
} from './square-layout.js';
export { landOf, ownsPlace, squareOf, seamReach, seamsOf, type JobSquare, type Seams } from './job-square.js';
export { lineInSquare } from './line-in-square.js';
export { edgeProfile, profilesDiffer, type EdgeProfile, type SeamDifference } from './edge-profile.js';
export { PointMatches, sameIntegers, type IntegerPoints } from './point-matches.js';
