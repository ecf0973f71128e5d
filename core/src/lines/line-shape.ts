/** Where a corner's elevation comes from, by its number. */
export const CORNER_SOURCES = ['none', 'file', 'point', 'surface', 'typed', 'between', 'found', 'service'] as const;
export type CornerSource = (typeof CORNER_SOURCES)[number];
/** In words. */
export const CORNER_SOURCE_NAMES: Readonly<Record<CornerSource, string>> = {
  none: 'no elevation',
  file: 'from the file',
  point: 'measured point',
  surface: 'surface',
  typed: 'typed',
  between: 'interpolated',
  found: 'found in the points',
  service: 'from a public service',
};

export const sourceNumber = (source: CornerSource): number => CORNER_SOURCES.indexOf(source);

/** The corners of a line, full coordinates, job units. A closed line does not repeat its first corner. */
export interface LineShape {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  /** NaN where a corner has none. */
  readonly elevation: Float64Array;
  /** Numbers of {@link CORNER_SOURCES}. */
  readonly source: Uint8Array;
  readonly isClosed: boolean;
}

/** One corner, while a line is being made. */
export interface Corner {
  readonly e: number;
  readonly n: number;
  readonly z: number;
  readonly source: number;
}

export function shapeOf(corners: readonly Corner[], isClosed: boolean): LineShape {
  return {
    easting: Float64Array.from(corners, ({ e }) => e),
    northing: Float64Array.from(corners, ({ n }) => n),
    elevation: Float64Array.from(corners, ({ z }) => z),
    source: Uint8Array.from(corners, ({ z, source }) => (Number.isNaN(z) ? 0 : source)),
    isClosed,
  };
}

export function cornersOf(line: LineShape): Corner[] {
  return Array.from(line.easting, (_, k) => cornerAt(line, k));
}

export function cornerAt({ easting, northing, elevation, source }: LineShape, k: number): Corner {
  return { e: easting[k]!, n: northing[k]!, z: elevation[k]!, source: source[k]! };
}

/** Between two corners, or straight on beyond them; the elevation is interpolated, or none where one has none. */
export function cornerBetween(a: Corner, b: Corner, share: number): Corner {
  const z = a.z + (b.z - a.z) * share;
  const source = share === 0 ? a.source : share === 1 ? b.source : Number.isNaN(z) ? 0 : sourceNumber('between');
  return { e: a.e + (b.e - a.e) * share, n: a.n + (b.n - a.n) * share, z, source };
}

/** A line as far as its legs in plan are asked for. */
export interface Legs {
  readonly easting: ArrayLike<number>;
  readonly northing: ArrayLike<number>;
  readonly isClosed: boolean;
}

/** Legs of a line: one fewer than its corners, or as many where it is closed. */
export function legCount({ easting, isClosed }: Pick<Legs, 'easting' | 'isClosed'>): number {
  return isClosed ? easting.length : Math.max(0, easting.length - 1);
}

/** Plan distance of each corner from the first along the line; a closed line has one more, its whole length. */
export function stationsOf(line: LineShape): Float64Array {
  const { easting, northing } = line;
  const legs = legCount(line);
  const stations = new Float64Array(legs + 1);
  for (let k = 0; k < legs; k++) {
    const next = (k + 1) % easting.length;
    stations[k + 1] = stations[k]! + Math.hypot(easting[next]! - easting[k]!, northing[next]! - northing[k]!);
  }
  return stations;
}

export function planLength(line: LineShape): number {
  return stationsOf(line).at(-1) ?? 0;
}
