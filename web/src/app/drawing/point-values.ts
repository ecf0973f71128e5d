import { SCAN_ANGLE_STEP } from '@pampero/core/cloud';
import { greenness } from '@pampero/core/selection';
import type { CachedNode } from './point-cache';
import type { DrawnGrid } from './rasteriser';
import type { ColourMode, ValueSpread } from './drawing-protocol';

/** Attribute columns as the server names them. */
export type ColumnKey = 'intensity' | 'returns' | 'scanAngle' | 'pointSourceId' | 'gpsTime' | 'colour' | 'confidence';

const COLUMNS: Partial<Record<ColourMode, ColumnKey>> = {
  intensity: 'intensity',
  colour: 'colour',
  greenness: 'colour',
  confidence: 'confidence',
  returns: 'returns',
  strip: 'pointSourceId',
  'gps-time': 'gpsTime',
  'scan-angle': 'scanAngle',
};

export function columnFor(mode: ColourMode): ColumnKey | undefined {
  return COLUMNS[mode];
}

/** Modes whose values lie on a ramp; the others have a colour for each kind. */
export function isRamped(mode: ColourMode): boolean {
  return mode !== 'class' && mode !== 'colour' && mode !== 'returns' && mode !== 'strip';
}

/** What each point of a node is coloured by; NaN where it has none. */
export function valuesOf(mode: ColourMode, cached: CachedNode, grid: DrawnGrid | undefined): Float64Array {
  const { integers, cloud, node, columns } = cached;
  const { count } = node;
  const out = new Float64Array(count);
  const bytes = columns.get(columnFor(mode) ?? 'intensity');
  switch (mode) {
    case 'elevation':
      for (let i = 0; i < count; i++) out[i] = integers[2 * count + i]! * cloud.scale[2] + cloud.offset[2];
      return out;
    case 'intensity':
      return bytes ? Float64Array.from(new Uint16Array(bytes)) : out.fill(NaN);
    case 'confidence':
      return bytes ? Float64Array.from(new Float32Array(bytes, 0, count)) : out.fill(NaN);
    case 'scan-angle':
      return bytes ? Float64Array.from(new Int16Array(bytes), (v) => v * SCAN_ANGLE_STEP) : out.fill(NaN);
    case 'gps-time':
      return bytes ? new Float64Array(bytes) : out.fill(NaN);
    case 'greenness': {
      if (!bytes) return out.fill(NaN);
      const [red, green, blue] = [0, 1, 2].map((band) => new Uint16Array(bytes, 2 * band * count, count));
      for (let i = 0; i < count; i++) out[i] = greenness(red![i]!, green![i]!, blue![i]!);
      return out;
    }
    case 'height':
    case 'difference': {
      if (!grid) return out.fill(NaN);
      const { x, y, z } = cached.points;
      const [cx, cy, cz] = cached.centre;
      for (let i = 0; i < count; i++) out[i] = z[i]! + cz - gridElevation(grid, x[i]! + cx, y[i]! + cy);
      return out;
    }
    default:
      return out.fill(NaN);
  }
}

/** Elevation of a grid at a place, bilinear between its four corners; NaN where one of them is missing. */
export function gridElevation({ columns, rows, x, y, step, elevation }: DrawnGrid, px: number, py: number): number {
  const fx = (px - x) / step;
  const fy = (py - y) / step;
  const column = Math.floor(fx);
  const row = Math.floor(fy);
  if (column < 0 || row < 0 || column >= columns - 1 || row >= rows - 1) return NaN;
  const at = row * columns + column;
  const [tx, ty] = [fx - column, fy - row];
  const low = elevation[at]! * (1 - tx) + elevation[at + 1]! * tx;
  const high = elevation[at + columns]! * (1 - tx) + elevation[at + columns + 1]! * tx;
  return low * (1 - ty) + high * ty;
}

const SPREAD_BINS = 96;

/** How values are spread: over the middle 99.8 per cent, so that a stray one does not squeeze the rest into one bar. */
export function spreadOf(mode: ColourMode, parts: readonly Float64Array[]): ValueSpread | undefined {
  const total = parts.reduce((sum, part) => sum + part.length, 0);
  if (total === 0) return undefined;
  // A sample of a hundred thousand orders quickly and is off by a bar at most.
  const step = Math.max(1, Math.floor(total / 100_000));
  const sample: number[] = [];
  for (const part of parts)
    for (let i = 0; i < part.length; i += step) {
      const v = part[i]!;
      if (v === v) sample.push(v);
    }
  if (sample.length === 0) return undefined;
  const sorted = Float64Array.from(sample).sort();
  const at = (share: number): number => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
  let [low, high] = [at(0.001), at(0.999)];
  if (!(high > low)) [low, high] = [low - 0.5, low + 0.5];
  const counts = new Array<number>(SPREAD_BINS).fill(0);
  for (const v of sorted) {
    const bin = Math.floor(((v - low) / (high - low)) * SPREAD_BINS);
    if (bin >= 0 && bin < SPREAD_BINS) counts[bin]! += step;
  }
  return {
    mode,
    low,
    high,
    counts,
    percentiles: { 1: at(0.01), 2: at(0.02), 5: at(0.05), 95: at(0.95), 98: at(0.98), 99: at(0.99) },
  };
}
