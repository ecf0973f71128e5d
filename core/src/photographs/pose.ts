import { bodyToLocal } from '../strips/index.js';

/** How the three angles of a photograph are meant. */
export const ANGLE_CONVENTIONS = ['omega-phi-kappa', 'platform', 'camera-axis'] as const;
/**
 * - `omega-phi-kappa`: as photogrammetry has them, each about the axes turned by those before; x of the picture to the right, y up it.
 * - `platform`: roll, pitch and heading of what carries a camera that looks straight down, with the top of the picture ahead.
 * - `camera-axis`: heading and pitch of the camera's own axis (pitch 0 is level, -90 degrees straight down), and roll about it.
 */
export type AngleConvention = (typeof ANGLE_CONVENTIONS)[number];

/** Where a photograph was taken from, and how the camera was turned. */
export interface Pose {
  readonly east: number;
  readonly north: number;
  readonly up: number;
  /** To the right of the picture, down it, and along the axis: three unit vectors in east, north, up. */
  readonly axes: readonly number[];
}

/** How a camera is turned in what carries it: angles of its own forward, right and down in those of the platform, radians. */
export interface Mounting {
  readonly roll: number;
  readonly pitch: number;
  readonly heading: number;
}
const LEVEL: Mounting = { roll: 0, pitch: 0, heading: 0 };

/**
 * The axes of a picture from three angles in radians: omega, phi, kappa, or roll, pitch, heading with the signs of `attitude.ts`.
 * Of omega, phi and kappa the rotation is the sequential one of textbooks of photogrammetry (Wolf and Dewitt, from memory).
 */
export function axesOf(
  convention: AngleConvention,
  first: number,
  second: number,
  third: number,
  mounted: Mounting = LEVEL,
): number[] {
  if (convention === 'omega-phi-kappa') {
    const [so, co, sp, cp, sk, ck] = [
      Math.sin(first),
      Math.cos(first),
      Math.sin(second),
      Math.cos(second),
      Math.sin(third),
      Math.cos(third),
    ];
    const right = [cp * ck, so * sp * ck + co * sk, -co * sp * ck + so * sk];
    const upwards = [-cp * sk, -so * sp * sk + co * ck, co * sp * sk + so * ck];
    const backwards = [sp, -so * cp, co * cp];
    return [...right, ...upwards.map((v) => -v), ...backwards.map((v) => -v)];
  }
  const body = new Float64Array(9);
  const mount = new Float64Array(9);
  bodyToLocal(first, second, third, body);
  bodyToLocal(mounted.roll, mounted.pitch, mounted.heading, mount);
  // Of the camera's forward, right and down in those of what carries it; what is said of a camera as standing north, east and down.
  const within = (k: number): number[] => [mount[k + 3]!, mount[k]!, -mount[k + 6]!];
  const column = (k: number): number[] =>
    [0, 3, 6].map((row) => within(k).reduce((sum, value, axis) => sum + body[row + axis]! * value, 0));
  const [forward, right, down] = [column(0), column(1), column(2)];
  return convention === 'platform' ? [...right, ...forward.map((v) => -v), ...down] : [...right, ...down, ...forward];
}

/** Omega, phi and kappa, radians, of a picture's axes: {@link axesOf} backwards. */
export function omegaPhiKappa(axes: readonly number[]): [omega: number, phi: number, kappa: number] {
  const [backEast, backNorth, backUp] = [-axes[6]!, -axes[7]!, -axes[8]!];
  // m11 = cos φ cos κ, and m21 = -cos φ sin κ with y up the picture.
  return [
    Math.atan2(-backNorth, backUp),
    Math.asin(Math.max(-1, Math.min(1, backEast))),
    Math.atan2(axes[3]!, axes[0]!),
  ];
}
