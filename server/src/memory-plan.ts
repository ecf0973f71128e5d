/** How much is worked on at once, so that the server keeps to its memory. */
export interface MemoryPlan {
  /** Blocks and squares under way at once. */
  readonly lanes: number;
  /** Points of a block that is read, sorted and written at once. */
  blockPoints(recordLength: number): number;
  /** Points of a square that is built at once. */
  squarePoints(recordLength: number): number;
}

/** What the server takes with nothing to do, with all of its threads and caches, megabytes: measured. */
const AT_REST = 350;
const [LEAST_POINTS, MOST_BLOCK, MOST_SQUARE] = [100_000, 1_000_000, 1_500_000];
/** A lane that could hold fewer points than this is given up for another. */
const WORTHWHILE = 250_000;
/** Bytes a point takes on the way: its record three times over in sorting, twice and its columns in building. */
const sorting = (recordLength: number): number => recordLength * 3 + 16;
const building = (recordLength: number): number => recordLength * 4 + 80;

/** What is left of `megabytes` for work. */
export function roomFor(megabytes: number): number {
  return Math.max(50, megabytes - AT_REST);
}

/** Divides `megabytes` of memory among at most `workers` threads. */
export function planMemory(megabytes: number, workers: number): MemoryPlan {
  const bytes = roomFor(megabytes) * 1e6;
  const lanes = Math.max(1, Math.min(workers, Math.floor(bytes / (WORTHWHILE * building(40)))));
  const points = (each: number, most: number): number =>
    Math.round(Math.max(LEAST_POINTS, Math.min(most, bytes / lanes / each)));
  return {
    lanes,
    blockPoints: (recordLength) => points(sorting(recordLength), MOST_BLOCK),
    squarePoints: (recordLength) => points(building(recordLength), MOST_SQUARE),
  };
}
