/** Lattice noise from 0 to 1: hashed corners, smoothly blended. */
export function smoothNoise(x: number, y: number): number {
  const column = Math.floor(x);
  const row = Math.floor(y);
  const corner = (c: number, r: number): number => {
    let h = Math.imul(c + 4096, 0x27d4eb2d) ^ Math.imul(r + 4096, 0x165667b1);
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
    return ((h ^ (h >>> 12)) >>> 0) / 4294967296;
  };
  const ease = (t: number): number => t * t * (3 - 2 * t);
  const u = ease(x - column);
  const south = corner(column, row) + (corner(column + 1, row) - corner(column, row)) * u;
  const north = corner(column, row + 1) + (corner(column + 1, row + 1) - corner(column, row + 1)) * u;
  return south + (north - south) * ease(y - row);
}
