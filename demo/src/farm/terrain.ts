/**
 * The land of the demo farm as a function: metres east and north of the job's corner in, metres of elevation out.
 * Everything is invented: a flood bank with a gravel crest, a drainage canal beside it, a lagoon, an access road.
 */

/** The corner of the scene in EPSG:5347. */
export const CORNER = { easting: 5_512_000, northing: 6_150_000 } as const;
export const EXTENT = { east: 560, north: 420 } as const;

export const BANK = { crestHalfWidth: 3, height: 3.8, slope: 1 / 2.2 } as const;
const CANAL = { offset: -36, bottomHalfWidth: 3.5, depth: 2.6, slope: 1 / 1.6, water: 1.5 } as const;
export const LAGOON = { east: 452, north: 92, radiusEast: 66, radiusNorth: 42, depth: 1.7, water: 0.95 } as const;
const ROAD = { halfWidth: 2.4, rise: 0.25 } as const;

/** Northing of the bank's centre line. */
export function bankNorthing(east: number): number {
  return 214 + 24 * Math.sin(east / 92) + 0.05 * (east - 280);
}

/** Metres north of the bank's centre line, square to it near enough for a gentle bend. */
export function distanceToBank(east: number, north: number): number {
  const bend = (24 / 92) * Math.cos(east / 92) + 0.05;
  return (north - bankNorthing(east)) / Math.hypot(1, bend);
}

/** Metres from the access road's centre line, which runs from the north edge past the barn and up the bank. */
export function distanceToRoad(east: number, north: number): number {
  if (north < bankNorthing(260) - 4) return Infinity;
  return Math.abs(east - (262 + 26 * Math.sin((north - 214) / 60)));
}

/** The plain without anything built: a slight fall to the south-east and a long swell. */
function plain(east: number, north: number): number {
  return (
    30.4 -
    east * 0.0014 +
    north * 0.0011 +
    0.28 * Math.sin(east / 71 + 0.4) * Math.cos(north / 83) +
    0.12 * Math.sin(east / 23 + north / 31) +
    0.03 * Math.sin(east / 3.1) * Math.cos(north / 3.7)
  );
}

/** Elevation of the bare ground, under water too. */
export function groundElevation(east: number, north: number): number {
  const base = plain(east, north);
  const d = distanceToBank(east, north);
  let z = base;
  const lagoon = lagoonShare(east, north);
  if (lagoon > 0) z -= LAGOON.depth * Math.min(1, 2.4 * lagoon);
  const road = distanceToRoad(east, north);
  if (road < ROAD.halfWidth + 1.5) z += ROAD.rise * Math.min(1, (ROAD.halfWidth + 1.5 - road) / 1.5);
  const intoCanal = Math.max(0, Math.abs(d - CANAL.offset) - CANAL.bottomHalfWidth) * CANAL.slope;
  if (intoCanal < CANAL.depth) z = Math.min(z, base - CANAL.depth + intoCanal);
  const downBank = Math.max(0, Math.abs(d) - BANK.crestHalfWidth) * BANK.slope;
  if (downBank < BANK.height) z = Math.max(z, base + BANK.height - downBank);
  return z;
}

/** Level of standing water here, or −∞ where it is dry. */
export function waterElevation(east: number, north: number): number {
  const base = plain(280, 180);
  if (Math.abs(distanceToBank(east, north) - CANAL.offset) < 9) return base - CANAL.water - east * 0.0004;
  return lagoonShare(east, north) > 0 ? plain(LAGOON.east, LAGOON.north) - LAGOON.water : -Infinity;
}

function lagoonShare(east: number, north: number): number {
  return 1 - Math.hypot((east - LAGOON.east) / LAGOON.radiusEast, (north - LAGOON.north) / LAGOON.radiusNorth);
}

/** Gravel: the crest and the access road. */
export function isGravel(east: number, north: number): boolean {
  return (
    Math.abs(distanceToBank(east, north)) < BANK.crestHalfWidth - 0.4 || distanceToRoad(east, north) < ROAD.halfWidth
  );
}
