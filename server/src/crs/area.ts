import { checkPlace, LONGITUDE_LATITUDE, placeFindingTexts, planTransform } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import type { PlaneSystem } from './plane-system.js';

interface PlanBounds {
  readonly min: readonly number[];
  readonly max: readonly number[];
}

/** What is wrong with where points lie, in words; undefined where nothing is, or nothing is known of the system's area. */
export function placeFinding(bounds: PlanBounds | undefined, system: PlaneSystem | undefined): string | undefined {
  if (!bounds || !system?.area) return undefined;
  const finding = checkPlace({
    easting: (bounds.min[0]! + bounds.max[0]!) / 2,
    northing: (bounds.min[1]! + bounds.max[1]!) / 2,
    unit: system.unit,
    isInside: insideArea(system),
  });
  return finding && placeFindingTexts[finding];
}

function insideArea({ proj4, area }: PlaneSystem): (easting: number, northing: number) => boolean {
  const [south, west, north, east] = area!;
  // A degree of grace: areas are given roughly, and surveys reach over them.
  const grace = 1;
  return (e, n) => {
    try {
      const [longitude, latitude] = [Float64Array.of(e), Float64Array.of(n)];
      planTransform(proj4, LONGITUDE_LATITUDE)(longitude, latitude);
      const isEastWest =
        west <= east
          ? longitude[0]! >= west - grace && longitude[0]! <= east + grace
          : longitude[0]! >= west - grace || longitude[0]! <= east + grace;
      if (!isEastWest || latitude[0]! < south - grace || latitude[0]! > north + grace) return false;
      // Far outside its zone a projection folds over: only a place that comes back is one.
      planTransform(LONGITUDE_LATITUDE, proj4)(longitude, latitude);
      return Math.hypot(longitude[0]! - e, latitude[0]! - n) < 1;
    } catch (error) {
      if (error instanceof PamperoError) return false;
      throw error;
    }
  };
}
