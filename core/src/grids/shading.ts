/** Where the light comes from, degrees: azimuth clockwise from north, altitude over the horizon. */
export interface Sun {
  readonly azimuth: number;
  readonly altitude: number;
}

/** Slopes towards east and north by Horn 1981 ("Hill shading and the reflectance map", Proceedings of the IEEE 69(1), 14-47). */
function eachGradient(
  z: Float32Array,
  columns: number,
  rows: number,
  cell: number,
  visit: (i: number, east: number, north: number) => void,
): void {
  for (let row = 1; row < rows - 1; row++)
    for (let column = 1; column < columns - 1; column++) {
      const i = row * columns + column;
      const [s, n] = [i - columns, i + columns];
      const east = (z[n + 1]! + 2 * z[i + 1]! + z[s + 1]! - (z[n - 1]! + 2 * z[i - 1]! + z[s - 1]!)) / (8 * cell);
      const north = (z[n - 1]! + 2 * z[n]! + z[n + 1]! - (z[s - 1]! + 2 * z[s]! + z[s + 1]!)) / (8 * cell);
      if (!Number.isNaN(east + north + z[i]!)) visit(i, east, north);
    }
}

/** Steepest slope of each cell, degrees; NaN at the rim and beside empty cells. Row 0 is the southernmost. */
export function slope(z: Float32Array, columns: number, rows: number, cell: number): Float32Array<ArrayBuffer> {
  const out = new Float32Array(z.length).fill(NaN);
  eachGradient(z, columns, rows, cell, (i, east, north) => {
    out[i] = (Math.atan(Math.hypot(east, north)) * 180) / Math.PI;
  });
  return out;
}

/** The way water runs down from each cell, degrees clockwise from north; NaN where it is level. */
export function aspect(z: Float32Array, columns: number, rows: number, cell: number): Float32Array<ArrayBuffer> {
  const out = new Float32Array(z.length).fill(NaN);
  eachGradient(z, columns, rows, cell, (i, east, north) => {
    if (east === 0 && north === 0) return;
    const degrees = (Math.atan2(-east, -north) * 180) / Math.PI;
    out[i] = degrees < 0 ? degrees + 360 : degrees;
  });
  return out;
}

/** Light on each cell, 1 to 255, 0 where there is none to tell. */
export function hillshade(
  z: Float32Array,
  columns: number,
  rows: number,
  cell: number,
  { azimuth, altitude }: Sun,
  exaggeration = 1,
): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(z.length);
  const toSun = (azimuth * Math.PI) / 180;
  const up = (altitude * Math.PI) / 180;
  const [sinUp, cosUp] = [Math.sin(up), Math.cos(up)];
  const [sunEast, sunNorth] = [Math.sin(toSun), Math.cos(toSun)];
  eachGradient(z, columns, rows, cell / exaggeration, (i, east, north) => {
    const light = (sinUp - cosUp * (sunEast * east + sunNorth * north)) / Math.sqrt(1 + east * east + north * north);
    out[i] = light <= 0 ? 1 : Math.round(1 + 254 * light);
  });
  return out;
}
