import { percentile } from '@pampero/core/accuracy';
import type { StripSection } from '@pampero/core/strips';

const PIECES = 24;

/** The elevations to show so that the ground of the section fills the picture, with room for gaps of some size. */
export function groundWindow(
  { along, elevation, alongAfter, elevationAfter }: StripSection,
  length: number,
  room: number,
): { readonly low: number; readonly high: number } {
  const pieces = Array.from({ length: PIECES }, (): number[] => []);
  const add = (at: number, z: number): void => {
    if (!Number.isNaN(at)) pieces[Math.min(PIECES - 1, Math.floor((at / length) * PIECES))]!.push(z);
  };
  for (let k = 0; k < along.length; k++) {
    add(along[k]!, elevation[k]!);
    add(alongAfter[k]!, elevationAfter[k]!);
  }
  const ground = pieces.flatMap((list) => (list.length < 5 ? [] : [percentile(Float64Array.from(list).sort(), 20)]));
  if (ground.length === 0) {
    const [low, high] = [Math.min(...elevation), Math.max(...elevation)];
    return Number.isFinite(low) ? { low: low - room, high: high + room } : { low: 0, high: 1 };
  }
  return { low: Math.min(...ground) - room, high: Math.max(...ground) + room };
}
