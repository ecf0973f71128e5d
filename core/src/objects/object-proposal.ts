import { metresPer, saidLength, saidShortLength, type LengthUnit } from '../geodesy/index.js';
/** What a cloud tells before its objects are looked for. Metric throughout. */
export interface ObjectEvidence {
  /** Points a square metre, all returns. */
  readonly density: number;
  /** Of the ranging, see `groundNoise`. Undefined where too few points tell. */
  readonly noise: number | undefined;
  /** How far strips lie apart in elevation, see `stripDisagreement`. */
  readonly stripDisagreement: number | undefined;
}

/** Settings for finding objects, lengths in job units. */
export interface ObjectProposal {
  readonly settings: {
    readonly lowFrom: number;
    readonly roughness: number;
    readonly radius: number;
    readonly wirePiece: number;
    readonly vehicles: boolean;
    readonly fences: boolean;
  };
  /** Why, a sentence each. */
  readonly reasons: readonly string[];
}

/** A piece of roof is told best from so many points: fewer are plane by chance, more reach over its edges. Tuned on simulated scenes. */
const PLANE_POINTS = 22;
/** A roof scatters by the noise and by its tiles and seams. Tuned on simulated scenes. */
const ROOF_NOISES = 4.5;
const USUAL_NOISE = 0.02;
/** A wire is looked for within so many spacings. Tuned on simulated scenes, from wires over country to those along a street. */
const WIRE_SPACINGS = 8.7;
/** From so many points a square metre on a car has enough of them, and a wall. */
const DENSE = 5;

/** Settings for a cloud from what it tells of itself, with the reasons. */
export function proposeObjects(evidence: ObjectEvidence, unit: LengthUnit): ObjectProposal {
  const metresPerUnit = metresPer(unit);
  const { density, noise = USUAL_NOISE, stripDisagreement = 0 } = evidence;
  const spacing = 1 / Math.sqrt(density);
  const rounded = (value: number, step: number): number => Math.round(value / step) * step;
  const between = (value: number, least: number, most: number): number => Math.min(most, Math.max(least, value));
  const radius = between(rounded(spacing * Math.sqrt(PLANE_POINTS / Math.PI), 0.05), 0.8, 2);
  const roughness = between(rounded(ROOF_NOISES * noise + stripDisagreement / 2, 0.005), 0.06, 0.3);
  const wirePiece = between(rounded(WIRE_SPACINGS * spacing, 0.1), 1.5, 8);
  const lowFrom = between(rounded(6 * noise + stripDisagreement, 0.01), 0.15, 0.5);
  const isDense = density >= DENSE;
  const inUnits = (metres: number): number => Number((metres / metresPerUnit).toPrecision(9));
  return {
    settings: {
      lowFrom: inUnits(lowFrom),
      roughness: inUnits(roughness),
      radius: inUnits(radius),
      wirePiece: inUnits(wirePiece),
      vehicles: isDense,
      fences: isDense,
    },
    reasons: [
      `${density.toFixed(1)} points a square metre: some twenty or more lie within ${saidLength(radius, unit)}, enough to tell a piece of roof.`,
      `Points scatter by ${saidShortLength(noise, unit, 1)}${stripDisagreement > 0 ? ` and strips lie ${saidShortLength(stripDisagreement, unit)} apart` : ''}: a roof may lie ${saidShortLength(roughness, unit, 1)} off its plane, and what stands less than ${saidShortLength(lowFrom, unit)} over the ground is not told from it.`,
      `Points lie ${saidLength(spacing, unit)} apart, and those of a wire further: its pieces are looked for within ${saidLength(wirePiece, unit, 1)}.`,
      isDense
        ? 'Vehicles, fences and walls show at this density and are looked for.'
        : 'Too few points for vehicles, fences and walls: they are not looked for.',
    ],
  };
}
