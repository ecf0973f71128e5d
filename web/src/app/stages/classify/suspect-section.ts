import type { SuspectAreaResource } from '@pampero/contract';

type Suspect = Pick<SuspectAreaResource, 'kind' | 'elevation' | 'size' | 'width'>;

/** Kinds whose size is how far off, or how high, the ground is; of the others it is a width or a share. */
const BY_HEIGHT: readonly SuspectAreaResource['kind'][] = ['spike', 'pit', 'step', 'roof'];

/** A section in which a suspect area is plain, and how high a stretch it must show; `metre` in the job's unit. */
export function sectionOf(suspect: Suspect, metre: number): { length: number; depth: number; height: number } {
  const { kind, size, width } = suspect;
  const height = BY_HEIGHT.includes(kind) ? size : Math.min(4 * metre, width / 4);
  return {
    length: clamp(Math.max(3 * width, 4 * height), 8 * metre, 140 * metre),
    depth: clamp(width / 2, metre, 6 * metre),
    height: Math.max(0.1 * metre, height),
  };
}

/** Between which elevations ground points are wrong there; both ends open where all of them may be. */
export function heightsOf({ kind, elevation, size }: Suspect): { from?: number; to?: number } {
  if (kind === 'spike') return { from: elevation - size / 2 };
  if (kind === 'step') return { from: elevation };
  return kind === 'pit' ? { to: elevation + size / 2 } : {};
}

function clamp(value: number, low: number, high: number): number {
  return Math.min(high, Math.max(low, value));
}
