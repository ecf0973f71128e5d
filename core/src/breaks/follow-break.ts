import { upperMedian } from '../measuring/index.js';
import { fitProfile, hasTwoBends, STRANDS, type BreakOptions, type ProfileFit } from './break-kinds.js';
import { firstFrom } from './moments.js';
import { Slab, type PointField } from './point-field.js';

type Place = readonly [e: number, n: number];

/** A stretch of a break that was found, with how well the profiles bear it out. */
export interface FoundBreak {
  /** By strand (foot, top, back …): corners as easting, northing, elevation; a strand too few profiles show is left out. */
  readonly strands: Readonly<Record<string, readonly (readonly [number, number, number])[]>>;
  /** Root mean square of what points are off the profiles. */
  readonly residual: number;
  /** How much the break explains of the middle one of its profiles; see `ProfileFit`. */
  readonly strength: number;
  /** Share of the profiles along it that show the break. */
  readonly agree: number;
  readonly length: number;
  /** Gaps that were bridged: middle and length of each. */
  readonly bridged: readonly { readonly easting: number; readonly northing: number; readonly length: number }[];
  readonly isClosed: boolean;
  /** The middle of it, profile by profile, and how far its strands lie from that. */
  readonly axis: readonly (readonly [number, number])[];
  readonly halfWidth: number;
}

/** Profiles as long as this many point spacings along the line; longer where points are few, shorter would leave too few of them. */
const SLAB_SPACINGS = 5;
/** Corners of a leg this much off the way before it are another break. */
const SHARPEST = 0.8;
/** Of the profiles of a stretch, at least so many show it. */
const LEAST_AGREE = 0.5;
/** Steps back that the direction is taken from. */
const MEMORY = 5;

/** How far a slab reaches along the line, and how far apart profiles are. */
export function pace(
  field: PointField,
  { halfProfile }: BreakOptions,
): { readonly slab: number; readonly step: number } {
  const slab = Math.min(Math.max(SLAB_SPACINGS * field.spacing, halfProfile / 4), halfProfile);
  return { slab, step: slab / 2 };
}

/**
 * Follows a break along a guide by cross profiles, one after the other: each begins where the last ones point to. Where the break is lost,
 * the guide leads on. Then the profiles are laid anew, square to what was found.
 * @param guide - two corners at least, in the field's coordinates
 * @param goesOn - whether it is followed beyond the guide's end
 */
export function followBreak(
  field: PointField,
  guide: readonly Place[],
  options: BreakOptions,
  goesOn = false,
): FoundBreak[] {
  const way = new Way(guide);
  const corridor = guide.length > 2 ? options.reach : Math.max(options.reach, way.length / 4);
  const walker = new Walker(field, options);
  const traced = walker.alongGuide(way, corridor, goesOn);
  return refined(field, traced, options, walker.step);
}

/**
 * Follows a break both ways from a place on it, until it ends or comes back to its beginning.
 * @param isTaken - places that belong to another line already: there it ends
 */
export function followFrom(
  field: PointField,
  start: Place,
  direction: Place,
  options: BreakOptions,
  isTaken: (e: number, n: number) => boolean = () => false,
): FoundBreak[] {
  const walker = new Walker(field, options);
  const ahead = walker.free(start, direction, isTaken);
  const back = ahead.closes
    ? []
    : walker.free(start, [-direction[0], -direction[1]], isTaken).places.slice(1).reverse();
  return refined(field, { places: [...back, ...ahead.places], closes: ahead.closes }, options, walker.step);
}

/** Where the break was met, and whether the last place leads to the first again. */
interface Traced {
  readonly places: readonly Place[];
  readonly closes: boolean;
}

/** Goes from profile to profile. */
class Walker {
  readonly step: number;
  private readonly halfAlong: number;
  private readonly slab = new Slab();

  constructor(
    private readonly field: PointField,
    private readonly options: BreakOptions,
  ) {
    const { slab, step } = pace(field, options);
    this.halfAlong = slab / 2;
    this.step = step;
  }

  private fit(at: Place, direction: Place, reach: number): ProfileFit | undefined {
    const { halfProfile } = this.options;
    const count = this.field.slabInto(at, direction, this.halfAlong, halfProfile + reach, this.slab);
    return fitProfile(this.slab, count, this.options, reach);
  }

  /** How far the break may lie beside where it is expected. */
  private get narrow(): number {
    return Math.max(2 * this.field.spacing, this.step * SHARPEST);
  }

  alongGuide(way: Way, corridor: number, goesOn: boolean): Traced {
    const places: Place[] = [];
    let [at, direction] = [way.at(0), way.directionAt(0)];
    let side = 0;
    let lost = Infinity; // as long as nothing was found, the guide leads
    let progress = 0;
    const most = Math.ceil((goesOn ? 20_000 : 4 * way.length + 10 * this.step) / this.step);
    for (let k = 0; k < most; k++) {
      const isLed = lost > 3 * this.step;
      const reach = isLed ? this.options.reach : this.narrow;
      const found = this.fit(at, direction, reach);
      const isSame = found !== undefined && (side === 0 || found.side === 0 || found.side === side);
      const place = found && isSame ? beside(at, direction, found.centre) : undefined;
      if (found && place && (goesOn || way.distanceTo(place, progress) <= corridor)) {
        side ||= found.side;
        places.push(place);
        lost = 0;
        direction = headingOf(places, direction);
        at = place;
      } else lost += this.step;
      progress = Math.max(progress, way.nearest(at, progress, 6 * this.step));
      const isAtEnd = progress >= way.length - this.step / 2;
      if (isAtEnd && (!goesOn || lost > this.options.longestGap)) break;
      if (lost > 3 * this.step && !isAtEnd) {
        // Lost: on along the guide.
        progress += this.step;
        [at, direction] = [way.at(progress), way.directionAt(progress)];
        side = 0;
      } else at = beyond(at, direction, this.step);
    }
    return { places, closes: false };
  }

  free(start: Place, direction: Place, isTaken: (e: number, n: number) => boolean): Traced {
    const places: Place[] = [];
    let at = start;
    let side = 0;
    let lost = 0;
    let taken = 0;
    for (let k = 0; k < 20_000; k++) {
      const found = this.fit(at, direction, this.narrow);
      const isSame = found !== undefined && (side === 0 || found.side === 0 || found.side === side);
      if (found && isSame) {
        const place = beside(at, direction, found.centre);
        taken = isTaken(...place) ? taken + 1 : 0;
        if (taken > 2) return { places: places.slice(0, -2), closes: false };
        side ||= found.side;
        places.push(place);
        lost = 0;
        direction = headingOf(places, direction);
        at = place;
        const [first] = places;
        if (k > 8 && Math.hypot(place[0] - first![0], place[1] - first![1]) < this.step)
          return { places, closes: true };
      } else lost += this.step;
      if (lost > this.options.longestGap) break;
      at = beyond(at, direction, this.step);
    }
    return { places, closes: false };
  }
}

const beside = ([e, n]: Place, [de, dn]: Place, across: number): Place => [e + dn * across, n - de * across];
const beyond = ([e, n]: Place, [de, dn]: Place, along: number): Place => [e + de * along, n + dn * along];

/** Where the last places lead; turned no more than by half from one to the next. */
function headingOf(places: readonly Place[], before: Place): Place {
  const last = places.at(-1)!;
  const first = places[Math.max(0, places.length - MEMORY)]!;
  const [e, n] = [last[0] - first[0], last[1] - first[1]];
  const length = Math.hypot(e, n);
  if (length < 1e-6) return before;
  const share = Math.min(1, places.length / MEMORY) * 0.7;
  const mixed: Place = [before[0] * (1 - share) + (e / length) * share, before[1] * (1 - share) + (n / length) * share];
  const size = Math.hypot(...mixed);
  return size > 1e-6 ? [mixed[0] / size, mixed[1] / size] : before;
}

interface Station {
  readonly at: Place;
  readonly direction: Place;
  readonly station: number;
  fit: ProfileFit | undefined;
}

/** Lays profiles square to what was traced, twice, and makes lines of what they show. */
function refined(field: PointField, traced: Traced, options: BreakOptions, step: number): FoundBreak[] {
  let stretches = stretchesOf(traced, options.longestGap, step);
  let found: FoundBreak[] = [];
  for (let pass = 0; pass < 2; pass++) {
    const next: Traced[] = [];
    found = [];
    for (const stretch of stretches) {
      const stations = profilesAlong(field, stretch, options, step);
      for (const part of partsOf(stations, options, step)) {
        const made = madeOf(part, options, stretch.closes && part.length === stations.length, step);
        if (made) found.push(made);
        next.push({
          places: part.flatMap(({ at, direction, fit }) => (fit ? [beside(at, direction, fit.centre)] : [])),
          closes: stretch.closes && part.length === stations.length,
        });
      }
    }
    stretches = next.filter(({ places }) => places.length > 2);
  }
  return found;
}

/** Places as stretches without gaps that are too long to be bridged, evened out. */
function stretchesOf({ places, closes }: Traced, longestGap: number, step: number): Traced[] {
  const out: Place[][] = [];
  for (const place of places) {
    const run = out.at(-1);
    const last = run?.at(-1);
    if (run && last && Math.hypot(place[0] - last[0], place[1] - last[1]) <= longestGap + 2 * step) run.push(place);
    else out.push([place]);
  }
  const isWhole = closes && out.length === 1;
  return out.filter((run) => run.length > 2).map((run) => ({ places: evened(run, isWhole), closes: isWhole }));
}

/** Each place at the mean of itself and its neighbours. */
function evened(places: readonly Place[], closes: boolean): Place[] {
  const count = places.length;
  return places.map((place, k): Place => {
    const [a, b] = closes
      ? [places[(k + count - 1) % count]!, places[(k + 1) % count]!]
      : [places[k - 1], places[k + 1]];
    return a && b ? [(a[0] + 2 * place[0] + b[0]) / 4, (a[1] + 2 * place[1] + b[1]) / 4] : place;
  });
}

function profilesAlong(field: PointField, { places, closes }: Traced, options: BreakOptions, step: number): Station[] {
  const way = new Way(closes ? [...places, places[0]!] : places);
  const slab = new Slab();
  const { slab: along } = pace(field, options);
  const count = Math.max(2, Math.round(way.length / step) + 1);
  const reach = Math.max(2 * field.spacing, hasTwoBends(options.kind) ? options.halfProfile / 3 : step / 2);
  const stations = Array.from({ length: closes ? count - 1 : count }, (_, k): Station => {
    const station = (way.length * k) / (count - 1);
    const [at, direction] = [way.at(station), way.directionAt(station)];
    const points = field.slabInto(at, direction, along / 2, options.halfProfile, slab);
    return { at, direction, station, fit: fitProfile(slab, points, options, reach) };
  });
  withoutStrays(stations, field.spacing);
  return stations;
}

/** Profiles that show something beside what those about them show are not believed, nor those that lie the other way. */
function withoutStrays(stations: Station[], spacing: number): void {
  const sides = stations.reduce((sum, { fit }) => sum + (fit?.side ?? 0), 0);
  const centres = stations.map(({ fit }) => fit?.centre ?? NaN);
  stations.forEach((station, k) => {
    const { fit } = station;
    if (!fit) return;
    const near = centres.slice(Math.max(0, k - 5), k + 6).filter((c) => !Number.isNaN(c));
    const median = upperMedian(near)!;
    const off = upperMedian(near.map((c) => Math.abs(c - median)))!;
    const isOther = fit.side !== 0 && fit.side * sides < 0;
    if (isOther || Math.abs(fit.centre - median) > 4 * off + spacing) station.fit = undefined;
  });
}

/** Runs of profiles without a gap that is too long, from the first that shows the break to the last. */
function partsOf(stations: readonly Station[], { longestGap }: BreakOptions, step: number): Station[][] {
  const out: Station[][] = [];
  let run: Station[] = [];
  let missing: Station[] = [];
  for (const station of stations) {
    if (!station.fit) {
      missing.push(station);
      continue;
    }
    if (run.length > 0 && missing.length * step > longestGap) {
      out.push(run);
      run = [];
    } else if (run.length > 0) run.push(...missing);
    missing = [];
    run.push(station);
  }
  if (run.length > 0) out.push(run);
  return out.filter((part) => part.length > 2);
}

function madeOf(
  part: readonly Station[],
  options: BreakOptions,
  closes: boolean,
  step: number,
): FoundBreak | undefined {
  const shown = part.filter(({ fit }) => fit !== undefined);
  const agree = shown.length / part.length;
  if (agree < LEAST_AGREE || shown.length < 3) return undefined;
  const names = STRANDS[options.kind];
  const strands: Record<string, (readonly [number, number, number])[]> = {};
  names.forEach((name, s) => {
    const corners = shown.flatMap(({ at, direction, fit }) => {
      const strand = fit!.strands[s];
      return strand ? [[...beside(at, direction, strand.at), strand.elevation] as const] : [];
    });
    if (corners.length >= LEAST_AGREE * shown.length && corners.length > 2) strands[name] = steadied(corners, closes);
  });
  const bridged: { easting: number; northing: number; length: number }[] = [];
  for (let k = 1; k < shown.length; k++) {
    const length = shown[k]!.station - shown[k - 1]!.station;
    if (length < 2.5 * step) continue;
    const [a, b] = [shown[k - 1]!.at, shown[k]!.at];
    bridged.push({ easting: (a[0] + b[0]) / 2, northing: (a[1] + b[1]) / 2, length });
  }
  return {
    strands,
    residual: Math.sqrt(shown.reduce((sum, { fit }) => sum + fit!.residual ** 2, 0) / shown.length),
    strength: upperMedian(shown.map(({ fit }) => fit!.strength))!,
    agree,
    length: part.at(-1)!.station - part[0]!.station + (closes ? step : 0),
    bridged,
    isClosed: closes,
    axis: shown.map(({ at, direction, fit }) => beside(at, direction, fit!.centre)),
    halfWidth: Math.max(
      0,
      ...shown.flatMap(({ fit }) => fit!.strands.map((strand) => (strand ? Math.abs(strand.at - fit!.centre) : 0))),
    ),
  };
}

type Corner = readonly [number, number, number];

/**
 * Each corner at the middle of a straight line through itself and its neighbours, two on either side: as profiles overlap by half,
 * that takes out their scatter and keeps bends. Corners far apart are left alone.
 */
function steadied(corners: readonly Corner[], closes: boolean): Corner[] {
  const count = corners.length;
  const gaps = corners.slice(1).map((b, k) => Math.hypot(b[0] - corners[k]![0], b[1] - corners[k]![1]));
  const usual = upperMedian(gaps) ?? 0;
  return corners.map((corner, k): Corner => {
    const near: Corner[] = [];
    for (let d = -2; d <= 2; d++) {
      const at = closes ? (k + d + count) % count : k + d;
      const other = corners[at];
      if (other && Math.hypot(other[0] - corner[0], other[1] - corner[1]) < 4 * usual) near.push(other);
    }
    const isEven = closes || (k >= 2 && k + 2 < count);
    if (!isEven || near.length < 5) return corner;
    return [0, 1, 2].map((axis) => near.reduce((sum, other) => sum + other[axis]!, 0) / 5) as unknown as Corner;
  });
}

/** A guide, to be asked for places along it. */
export class Way {
  private readonly stations: Float64Array;

  constructor(private readonly places: readonly Place[]) {
    this.stations = new Float64Array(places.length);
    for (let k = 1; k < places.length; k++)
      this.stations[k] = this.stations[k - 1]! + Math.hypot(places[k]![0] - places[k - 1]![0], places[k]![1] - places[k - 1]![1]); // prettier-ignore
  }

  get length(): number {
    return this.stations.at(-1) ?? 0;
  }

  private leg(station: number): number {
    const last = this.places.length - 1;
    return Math.min(last, Math.max(1, firstFrom(this.stations, this.places.length, station)));
  }

  at(station: number): Place {
    const leg = this.leg(station);
    const [a, b] = [this.places[leg - 1]!, this.places[leg]!];
    const length = this.stations[leg]! - this.stations[leg - 1]!;
    const share = length > 0 ? (Math.max(0, Math.min(this.length, station)) - this.stations[leg - 1]!) / length : 0;
    return [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share];
  }

  directionAt(station: number): Place {
    // Across a corner, the way between both sides of it.
    const near = Math.min(0.25, this.length / 10);
    const [a, b] = [this.at(station - near), this.at(station + near)];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    return length > 0 ? [(b[0] - a[0]) / length, (b[1] - a[1]) / length] : [1, 0];
  }

  /** The station nearest to a place, from one on and no further than so far. */
  nearest([e, n]: Place, from: number, most: number): number {
    let [best, least] = [from, Infinity];
    for (let leg = this.leg(from); leg < this.places.length && this.stations[leg - 1]! <= from + most; leg++) {
      const [a, b] = [this.places[leg - 1]!, this.places[leg]!];
      const [ue, un] = [b[0] - a[0], b[1] - a[1]];
      const square = ue * ue + un * un;
      const share = square > 0 ? Math.max(0, Math.min(1, ((e - a[0]) * ue + (n - a[1]) * un) / square)) : 0;
      const station = this.stations[leg - 1]! + share * Math.sqrt(square);
      if (station < from || station > from + most) continue;
      const distance = Math.hypot(e - a[0] - share * ue, n - a[1] - share * un);
      if (distance < least) [best, least] = [station, distance];
    }
    return best;
  }

  /** How far a place lies from the way, looked for from a station on. */
  distanceTo([e, n]: Place, from: number): number {
    const [a, b] = this.at(this.nearest([e, n], Math.max(0, from - 1), this.length));
    return Math.hypot(e - a, n - b);
  }
}
