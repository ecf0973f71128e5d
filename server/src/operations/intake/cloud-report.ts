import type { CloudReport } from '@pampero/contract';
import {
  className,
  elevationOfBin,
  percentileBin,
  squareRows,
  type CloudStatistics,
  type Quantisation,
} from '@pampero/core/cloud';
import type { BuiltCloud } from './cloud-builder.js';
import { formatCount } from '@pampero/core/wording';

const BINS = 64;

/** Turns what was gathered while a cloud was read into what Intake shows. */
export function cloudReport(built: BuiltCloud, quantisation: Quantisation, hasGpsTime: boolean): CloudReport {
  const { statistics, min, max } = built;
  const z = (bin: number): number =>
    elevationOfBin(bin, min[2], max[2]) * quantisation.scale[2] + quantisation.offset[2];
  const density = densityOf(built);
  return {
    findings: findingsOf(statistics, hasGpsTime, (share) => z(percentileBin(statistics.elevations, share)), [
      z(0),
      z(statistics.elevations.length - 1),
    ]),
    intensity: histogram(statistics.intensities, (bin) => bin),
    elevation: histogram(statistics.elevations, z),
    returns: returnsOf(statistics),
    ...(statistics.firstTime <= statistics.lastTime && {
      time: { first: statistics.firstTime, last: statistics.lastTime },
    }),
    density,
  };
}

/** Bins between the first and the last thousandth, so that a stray value does not squeeze the rest into one. */
function histogram(counts: Float64Array, valueOf: (bin: number) => number): CloudReport['intensity'] {
  const first = percentileBin(counts, 0.001);
  const last = Math.max(first + 1, percentileBin(counts, 0.999));
  const out = new Array<number>(BINS).fill(0);
  for (let bin = first; bin <= last; bin++)
    out[Math.min(BINS - 1, Math.floor(((bin - first) / (last - first + 1)) * BINS))]! += counts[bin]!;
  return { low: valueOf(first), high: valueOf(last), counts: out };
}

function returnsOf({ returns }: CloudStatistics): CloudReport['returns'] {
  const out = { single: 0, first: 0, intermediate: 0, last: 0 };
  for (let number = 0; number < 16; number++) {
    for (let of = 0; of < 16; of++) {
      const count = returns[(number << 4) | of]!;
      if (of <= 1) out.single += count;
      else if (number <= 1) out.first += count;
      else if (number >= of) out.last += count;
      else out.intermediate += count;
    }
  }
  return out;
}

/** Fewer points than this in a cell, and chance alone leaves cells empty. */
const LEAST_POINTS_A_CELL = 12;
const LEAST_SIDE = 4;

function densityOf({ cube, squareCounts, statistics, min, max }: BuiltCloud): CloudReport['density'] {
  let side = Math.sqrt(squareCounts.length);
  let all = squareRows(squareCounts);
  // The cube is as wide as the cloud's longest side; the map only as wide as the cloud.
  const cellsAlong = (axis: 0 | 1): number =>
    Math.max(1, Math.min(side, Math.ceil(((max[axis] - min[axis]) * cube.steps[axis] * side) / 2 ** 21)));
  while (side > LEAST_SIDE && statistics.points < LEAST_POINTS_A_CELL * cellsAlong(0) * cellsAlong(1)) {
    all = halved(all, side);
    side /= 2;
  }
  const cell = cube.side / side;
  const [columns, rows] = [cellsAlong(0), cellsAlong(1)];
  const counts: number[] = [];
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) counts.push(all[row * side + column]!);
  const filled = counts.filter((count) => count > 0).length;
  const voids = countVoids(counts, columns, rows);
  const area = coveredArea(counts, columns, rows, cell, { cube, min, max });
  const pulses = returnsOf(statistics);
  return {
    points: statistics.points / area,
    pulses: (pulses.single + pulses.first) / area,
    spacing: Math.sqrt(area / Math.max(1, statistics.points)),
    area,
    voidShare: voids / Math.max(1, filled + voids),
    map: { columns, rows, cell, counts },
  };
}

/** Area of the cells with points, those at the far rim only as far as the cloud reaches. */
function coveredArea(
  counts: readonly number[],
  columns: number,
  rows: number,
  cell: number,
  { cube, min, max }: Pick<BuiltCloud, 'cube' | 'min' | 'max'>,
): number {
  const reach = (axis: 0 | 1): number => ((max[axis] - min[axis]) * cube.steps[axis] * cube.side) / 2 ** 21;
  const along = (index: number, count: number, axis: 0 | 1): number =>
    index < count - 1 ? cell : Math.max(cell * 0.05, Math.min(cell, reach(axis) - index * cell));
  let area = 0;
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++)
      if (counts[row * columns + column]! > 0) area += along(column, columns, 0) * along(row, rows, 1);
  return Math.max(area, 1e-6);
}

function halved(counts: Float64Array, side: number): Float64Array {
  const half = side / 2;
  const out = new Float64Array(half * half);
  for (let row = 0; row < side; row++)
    for (let column = 0; column < side; column++)
      out[(row >> 1) * half + (column >> 1)]! += counts[row * side + column]!;
  return out;
}

/** Empty cells that no way over empty cells leads out of: holes, not the land beside an irregular site. */
function countVoids(counts: readonly number[], columns: number, rows: number): number {
  const isOutside = new Uint8Array(counts.length);
  const queue: number[] = [];
  const enter = (at: number): void => {
    if (counts[at] === 0 && isOutside[at] === 0) {
      isOutside[at] = 1;
      queue.push(at);
    }
  };
  for (let column = 0; column < columns; column++) [column, (rows - 1) * columns + column].forEach(enter);
  for (let row = 0; row < rows; row++) [row * columns, row * columns + columns - 1].forEach(enter);
  for (let at = queue.pop(); at !== undefined; at = queue.pop()) {
    const column = at % columns;
    if (column > 0) enter(at - 1);
    if (column < columns - 1) enter(at + 1);
    if (at >= columns) enter(at - columns);
    if (at < counts.length - columns) enter(at + columns);
  }
  return counts.filter((count, at) => count === 0 && isOutside[at] === 0).length;
}

/** A scanner of millimetre steps now and then hits a place twice; more than this share is a mistake. Common practice, no source. */
const DUPLICATES_TOLD = 0.01;

/** Elevations this many times the middle 98 per cent's span away from it belong to no land. */
const FAR_OUT = 3;

function findingsOf(
  statistics: CloudStatistics,
  hasGpsTime: boolean,
  elevationAt: (share: number) => number,
  extremes: readonly [number, number],
): CloudReport['findings'] {
  const findings: { level: 'warning' | 'note'; message: string }[] = [];
  const { points } = statistics;
  const [low, high] = [elevationAt(0.01), elevationAt(0.99)];
  const reach = FAR_OUT * Math.max(1, high - low);
  if (extremes[0] < low - reach)
    findings.push({
      level: 'warning',
      message: `Some points lie far below the rest, the lowest at ${extremes[0].toFixed(2)}.`,
    });
  if (extremes[1] > high + reach)
    findings.push({
      level: 'warning',
      message: `Some points lie far above the rest, the highest at ${extremes[1].toFixed(2)}.`,
    });
  if (statistics.duplicates > 0)
    findings.push({
      level: statistics.duplicates > DUPLICATES_TOLD * points ? 'warning' : 'note',
      message: `${formatCount(statistics.duplicates)} ${statistics.duplicates === 1 ? 'point lies' : 'points lie'} exactly on another: was a strip merged twice?`,
    });
  if (hasGpsTime && statistics.timeless === points)
    findings.push({ level: 'note', message: 'No point has a time: strips cannot be told apart by it.' });
  else if (statistics.timeless > 0)
    findings.push({
      level: 'warning',
      message: `${formatCount(statistics.timeless)} ${statistics.timeless === 1 ? 'point has' : 'points have'} no time.`,
    });
  const odd = [...statistics.classes.entries()]
    .filter(([code, count]) => count > 0 && className(code).startsWith('Reserved'))
    .map(([code]) => code);
  if (odd.length > 0)
    findings.push({
      level: 'warning',
      message: `Classes ${odd.join(', ')} are in use, which the standard keeps in reserve.`,
    });
  const classed = points - statistics.classes[0]! - statistics.classes[1]!;
  if (classed > 0) findings.push({ level: 'note', message: `${formatCount(classed)} points come with a class.` });
  if (statistics.returns[0] === points)
    findings.push({ level: 'note', message: 'Returns are not numbered: every point counts as a last return.' });
  if (statistics.intensities[0] === points) findings.push({ level: 'note', message: 'There are no intensities.' });
  if (statistics.withheld > 0)
    findings.push({ level: 'note', message: `${formatCount(statistics.withheld)} points are withheld.` });
  if (statistics.overlap > 0)
    findings.push({ level: 'note', message: `${formatCount(statistics.overlap)} points are marked as overlap.` });
  return findings.sort((a, b) => Number(b.level === 'warning') - Number(a.level === 'warning'));
}
