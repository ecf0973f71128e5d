import { cornerAt, legCount, stationsOf, type LineShape } from '../lines/index.js';
import { valueAlong } from '../measuring/index.js';
import { profileOf, type Profile } from '../profiles/index.js';
import type { Tin } from '../terrain/index.js';
import { FacetIndex } from '../volumes/facet-index.js';

export interface SectionSettings {
  /** Between sections along the line, job units. */
  readonly step: number;
  /** How far each reaches to the left and to the right. */
  readonly left: number;
  readonly right: number;
}

/** A cut square to a line at a station. Offsets are negative to the left. */
export interface CrossSection {
  readonly station: number;
  readonly easting: number;
  readonly northing: number;
  /** Clockwise from grid north, degrees: the way the line runs. */
  readonly bearing: number;
  /** Of each surface: offsets from left to right with the elevation there, NaN where it ends. */
  readonly profiles: readonly { readonly offset: Float64Array; readonly elevation: Float64Array }[];
}

/** Sections along a line from its beginning, at every step and at its end. */
export function crossSections(
  line: LineShape,
  surfaces: readonly Tin[],
  { step, left, right }: SectionSettings,
): CrossSection[] {
  const stations = stationsOf(line);
  const length = stations.at(-1) ?? 0;
  const indexes = surfaces.map((tin) => new FacetIndex(tin, tin.origin));
  const wanted = Array.from({ length: Math.floor(length / step + 1e-9) + 1 }, (_, k) => k * step);
  if (length - wanted.at(-1)! > 1e-6 * Math.max(1, length)) wanted.push(length);
  let leg = 0;
  return wanted.map((station): CrossSection => {
    while (leg < legCount(line) - 1 && stations[leg + 1]! < station - 1e-9) leg++;
    const [a, b] = [cornerAt(line, leg), cornerAt(line, (leg + 1) % line.easting.length)];
    const legLength = stations[leg + 1]! - stations[leg]! || 1;
    const share = (station - stations[leg]!) / legLength;
    const [ue, un] = [(b.e - a.e) / legLength, (b.n - a.n) / legLength];
    const [e, n] = [a.e + (b.e - a.e) * share, a.n + (b.n - a.n) * share];
    const cut = [[e - un * left, n + ue * left], [e + un * right, n - ue * right]] as const; // prettier-ignore
    return {
      station,
      easting: e,
      northing: n,
      bearing: ((Math.atan2(ue, un) * 180) / Math.PI + 360) % 360,
      profiles: surfaces.map((tin, k) => offsetsOf(profileOf(tin, cut, indexes[k]), left)),
    };
  });
}

function offsetsOf({ station, elevation }: Profile, left: number): { offset: Float64Array; elevation: Float64Array } {
  return { offset: station.map((at) => at - left), elevation };
}

export interface SectionAreas {
  /** Where the first surface lies over the second: what is dug away to get from the first to the second. */
  readonly cut: number;
  readonly fill: number;
  /** Width over which both are there. */
  readonly width: number;
}

type Cut = CrossSection['profiles'][number];

/** Areas between two profiles of a section, exact: both are straight between their corners. */
export function areasBetween(first: Cut, second: Cut): SectionAreas {
  const at = [...new Set([...first.offset, ...second.offset])].sort((a, b) => a - b);
  let [cut, fill, width] = [0, 0, 0];
  for (let k = 1; k < at.length; k++) {
    const [from, to] = [at[k - 1]!, at[k]!];
    // A little within: at a place where a surface ends it has two answers.
    const [p, q] = [from + (to - from) * 1e-9, to - (to - from) * 1e-9];
    const [da, db] = [heightAt(first, p) - heightAt(second, p), heightAt(first, q) - heightAt(second, q)];
    if (Number.isNaN(da + db)) continue;
    const span = to - from;
    width += span;
    if (da * db >= 0) {
      const area = ((da + db) / 2) * span;
      if (area > 0) cut += area;
      else fill -= area;
      continue;
    }
    const cross = da / (da - db);
    const [one, other] = [(da * cross * span) / 2, (db * (1 - cross) * span) / 2];
    cut += Math.max(0, one) + Math.max(0, other);
    fill -= Math.min(0, one) + Math.min(0, other);
  }
  return { cut, fill, width };
}

/** Elevation at an offset, linear between corners; NaN where there is none. */
export function heightAt({ offset, elevation }: Cut, at: number): number {
  return valueAlong(offset, elevation, at);
}

/** Volume from areas at stations by average end areas: the mean of two areas times the way between them. */
export function endAreaVolume(stations: readonly number[], areas: readonly number[]): number {
  let volume = 0;
  for (let k = 1; k < stations.length; k++)
    volume += ((areas[k]! + areas[k - 1]!) / 2) * (stations[k]! - stations[k - 1]!);
  return volume;
}
