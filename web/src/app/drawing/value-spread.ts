import type { ColourMode } from './colour-modes';
import type { ValueSpread } from './viewer-questions';

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
