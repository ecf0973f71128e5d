/**
 * Attitude of a platform: roll, pitch and heading as aviation has them, body axes forward, right, down (ISO 1151-1, from memory). Roll
 * is positive with the right side down, pitch with the nose up, heading clockwise from grid north. All angles in radians.
 */
export const TURN = 2 * Math.PI;
export const toRadians = (degrees: number): number => (degrees * Math.PI) / 180;
export const toDegrees = (radians: number): number => (radians * 180) / Math.PI;

/** Writes the rotation from the body to east, north, up into `out` from `at` on, row by row. */
export function bodyToLocal(roll: number, pitch: number, heading: number, out: Float64Array, at = 0): void {
  const sr = Math.sin(roll);
  const cr = Math.cos(roll);
  const sp = Math.sin(pitch);
  const cp = Math.cos(pitch);
  const sh = Math.sin(heading);
  const ch = Math.cos(heading);
  out[at] = sh * cp;
  out[at + 1] = sh * sp * sr + ch * cr;
  out[at + 2] = sh * sp * cr - ch * sr;
  out[at + 3] = ch * cp;
  out[at + 4] = ch * sp * sr - sh * cr;
  out[at + 5] = ch * sp * cr + sh * sr;
  out[at + 6] = sp;
  out[at + 7] = -cp * sr;
  out[at + 8] = -cp * cr;
}

/** The angle brought to -π up to π. */
export function wrapAngle(angle: number): number {
  const turned = angle % TURN;
  return turned > Math.PI ? turned - TURN : turned <= -Math.PI ? turned + TURN : turned;
}

/** Turns a vector by a rotation vector: about its direction by its length (Rodrigues 1840). Writes into `out`, which may be the vector. */
export function rotateBy(
  wx: number,
  wy: number,
  wz: number,
  vector: readonly [number, number, number] | Float64Array,
  out: Float64Array,
): void {
  const [x, y, z] = [vector[0]!, vector[1]!, vector[2]!];
  const angle = Math.sqrt(wx * wx + wy * wy + wz * wz);
  // Below a millionth of a second of arc the series are exact to the last bit.
  const first = angle < 1e-6 ? 1 - (angle * angle) / 6 : Math.sin(angle) / angle;
  const second = angle < 1e-6 ? 0.5 : (1 - Math.cos(angle)) / (angle * angle);
  const cx = wy * z - wz * y;
  const cy = wz * x - wx * z;
  const cz = wx * y - wy * x;
  out[0] = x + first * cx + second * (wy * cz - wz * cy);
  out[1] = y + first * cy + second * (wz * cx - wx * cz);
  out[2] = z + first * cz + second * (wx * cy - wy * cx);
}
