import type { FlightFile } from '../../drawing/flight-lines';

/** A strip as it is edited: by its times, or by point source ID. */
export interface EditedStrip {
  readonly name: string;
  readonly from?: number | undefined;
  readonly to?: number | undefined;
  readonly sourceId?: number | undefined;
  readonly isLeftOut: boolean;
}

/** Seconds between the end of a strip and the beginning of the next. */
const APART = 1e-4;

const isTimed = (strip: EditedStrip): strip is EditedStrip & { from: number; to: number } =>
  strip.sourceId === undefined && strip.from !== undefined && strip.to !== undefined;

/** A name that no strip has yet: the lowest number that is free. */
export function freeName(list: readonly EditedStrip[]): string {
  const names = new Set(list.map(({ name }) => name));
  for (let k = 1; ; k++) if (!names.has(String(k))) return String(k);
}

/** A strip drawn over the others takes its time from them: what is left of each stays, in two pieces where it runs through the middle. */
export function withStrip(list: readonly EditedStrip[], from: number, to: number): EditedStrip[] {
  const kept = list.flatMap((strip) => {
    if (!isTimed(strip) || strip.to < from || strip.from > to) return [strip];
    const pieces: EditedStrip[] = [];
    if (strip.from < from - APART) pieces.push({ ...strip, to: from - APART });
    if (strip.to > to + APART) pieces.push({ ...strip, from: to + APART });
    return pieces;
  });
  return inOrder([...kept, { name: freeName(list), from, to, isLeftOut: false }]);
}

/** The strip that a time lies in as two, the second with a name of its own; undefined where it lies in none. */
export function splitAt(list: readonly EditedStrip[], time: number): EditedStrip[] | undefined {
  const at = list.findIndex((strip) => isTimed(strip) && time > strip.from + APART && time < strip.to - APART);
  const strip = list[at];
  if (!strip) return undefined;
  const halves = [
    { ...strip, to: time - APART / 2 },
    { ...strip, from: time + APART / 2, name: freeName(list) },
  ];
  return [...list.slice(0, at), ...halves, ...list.slice(at + 1)];
}

function inOrder(list: readonly EditedStrip[]): EditedStrip[] {
  return [...list].sort((a, b) => (a.from ?? 0) - (b.from ?? 0));
}

export interface PlaceOnFlight {
  /** On the trajectory's clock. */
  readonly time: number;
  readonly easting: number;
  readonly northing: number;
  /** From the place that was asked about. */
  readonly distance: number;
}

/** The nearest place on a trajectory; undefined where its times are not known. */
export function nearestOnFlight(
  { features }: FlightFile,
  [e, n]: readonly [number, number],
): PlaceOnFlight | undefined {
  let nearest: PlaceOnFlight | undefined;
  for (const { geometry, properties } of features) {
    if (!properties) continue;
    const { coordinates } = geometry;
    for (let k = 1; k < coordinates.length; k++) {
      const [ae, an] = coordinates[k - 1] as [number, number];
      const [be, bn] = coordinates[k] as [number, number];
      const squared = (be - ae) ** 2 + (bn - an) ** 2;
      const along = squared === 0 ? 0 : ((e - ae) * (be - ae) + (n - an) * (bn - an)) / squared;
      const share = Math.max(0, Math.min(1, along));
      const [easting, northing] = [ae + share * (be - ae), an + share * (bn - an)];
      const distance = Math.hypot(e - easting, n - northing);
      if (nearest && nearest.distance <= distance) continue;
      const [from, to] = [properties.time[k - 1]!, properties.time[k]!];
      nearest = { time: from + share * (to - from), easting, northing, distance };
    }
  }
  return nearest;
}
