import { metresPer, saidLength, saidShortLength, type LengthUnit } from '../geodesy/index.js';
import type { GroundSettings } from './find-ground.js';

/** What a cloud tells of itself before its ground is known. Metric throughout. */
export interface GroundEvidence {
  /** Mean distance between last returns, metres. */
  readonly spacing: number;
  /** Slope that one cell in twenty exceeds, between lowest points of wide cells, degrees. */
  readonly steepSlope: number;
  /** Share of pulses with more than one return. */
  readonly manyReturns: number;
  readonly hasColour: boolean;
  /** Scatter of points about planes where it is least, metres: the ranging noise. Undefined where too few points tell. */
  readonly noise: number | undefined;
  /** How far strips lie apart where they overlap, metres; undefined where there is no overlap to tell. */
  readonly stripDisagreement: number | undefined;
}

export interface GroundProposal {
  readonly settings: GroundSettings;
  /** Why, a sentence each. */
  readonly reasons: readonly string[];
}

/** Of points scattered normally 99.7 % lie within three times the noise. */
const NOISES = 3;
/** Of a difference between two strips that each lies off their mean; some pairs differ by more than the median. */
const SPREAD = 1.2;
const CELLS = [0.25, 0.35, 0.5, 0.7, 1, 1.5, 2, 3, 4] as const;
/** Spacings of last returns to a cell: some seven points, of which the lowest is asked ... */
const SPACINGS = 2.6;
/**
 * ... and fewer where points lie farther apart than this, metres: banks, ditches and kerbs stay as wide as they are, and within a wide
 * cell the land bends by more than the tolerance. Each metre of spacing adds less to the cell from there on.
 */
const [CLOSE, FARTHER] = [0.3, 1.6];

/** Settings for a cloud from what it tells of itself, with the reasons. Lengths of the settings in job units. */
export function proposeGround(evidence: GroundEvidence, unit: LengthUnit): GroundProposal {
  const metresPerUnit = metresPer(unit);
  const { spacing, steepSlope, manyReturns, hasColour, noise, stripDisagreement = 0 } = evidence;
  const reasons: string[] = [];
  const wanted = Math.min(spacing, CLOSE) * SPACINGS + Math.max(0, spacing - CLOSE) * FARTHER;
  const cell = CELLS.reduce((best, side) =>
    Math.abs(Math.log(side / wanted)) < Math.abs(Math.log(best / wanted)) ? side : best,
  );
  reasons.push(
    `Last returns lie ${saidLength(spacing, unit)} apart: cells of ${unit === 'metre' ? `${cell} m` : saidLength(cell, unit)} hold a few each.`,
  );
  const isPhotogrammetry = manyReturns < 0.001 && hasColour;
  // Matching of photographs errs by more than it scatters.
  const tolerance = Math.min(
    0.25,
    Math.max(0.04, Math.round((noise === undefined ? 0.06 : NOISES * noise + SPREAD * stripDisagreement) * 200) / 200),
  );
  reasons.push(
    noise === undefined
      ? `Too few points lie together to see the noise: ${saidLength(0.06, unit)} is usual.`
      : `Hard ground scatters by ${saidShortLength(noise, unit, 1)}: three times that counts as ground.`,
  );
  if (stripDisagreement > 0)
    reasons.push(
      `Strips lie ${saidShortLength(stripDisagreement, unit)} apart in elevation where they overlap: ${saidShortLength(SPREAD * stripDisagreement, unit)} is added. Align them first for a better surface.`,
    );
  const steepestRise = 8;
  reasons.push(
    `Slopes reach ${Math.max(1, Math.ceil(steepSlope))}°; the surface follows them as it grows denser, in rises of ${steepestRise}° from what is known.`,
  );
  if (isPhotogrammetry)
    reasons.push(
      'One return a point and colours: taken from photographs, which see grass from above. Green counts for less.',
    );
  else
    reasons.push(
      `${(manyReturns * 100).toFixed(0)} % of pulses came back more than once: only last returns are asked.`,
    );
  return {
    settings: {
      method: 'tin',
      cell: cell / metresPerUnit,
      tolerance: tolerance / metresPerUnit,
      refine: true,
      largestBuilding: 60 / metresPerUnit,
      steepestRise,
      tallestStep: 3 / metresPerUnit,
      landShape: steepSlope > 25 ? 'steep' : steepSlope > 6 ? 'rolling' : 'flat',
      followSteepSlopes: true,
      steepestDegrees: Math.max(40, Math.min(60, Math.ceil(steepSlope) + 10)),
      iterations: 500,
      steepSlope: Math.max(3, Math.round(steepSlope)),
      lowPointDepth: 0.5 / metresPerUnit,
      trustGreenLess: isPhotogrammetry,
    },
    reasons,
  };
}
