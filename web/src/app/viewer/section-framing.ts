import { sectionLength, type SectionCamera } from '../drawing/cameras';
import type { SectionLine } from '../state/view-store';
import type { LandExtent } from './land-extent';
import { SECTION_HEIGHT_SHARE } from './view-places';

/** How often heights may be drawn out in a section. */
export const EXAGGERATIONS: readonly number[] = [1, 2, 5, 10];

type Ends = Pick<SectionCamera, 'ax' | 'ay' | 'bx' | 'by'>;

/** A section's line in scene coordinates. */
export function endsOf({ a, b }: SectionLine, [ox, oy]: readonly [number, number, number]): Ends {
  return { ax: a[0] - ox, ay: a[1] - oy, bx: b[0] - ox, by: b[1] - oy };
}

/**
 * A section along a whole line, its ground a third of the way up, so that what stands on it has room. Heights are drawn out as
 * far as the land's own still take no more than half of it.
 *
 * @param size - of all views, pixels
 */
export function framedSection(
  ends: Ends,
  depth: number,
  size: { readonly width: number; readonly height: number },
  land: LandExtent,
): SectionCamera {
  const length = sectionLength(ends);
  const height = size.height * SECTION_HEIGHT_SHARE;
  const unitsPerPixel = (length * 1.06) / Math.max(1, size.width - 20);
  const exaggeration = EXAGGERATIONS.findLast((times) => (land.heightSpan * times) / unitsPerPixel < height / 2) ?? 1;
  const z = land.groundLevel + ((height / 2 - height * 0.3) * unitsPerPixel) / exaggeration;
  return { ...ends, depth, exaggeration, station: length / 2, z, unitsPerPixel };
}

/** The section with an elevation in its middle, and so high a stretch about a third of it; `pixels` is the section's height. */
export function framedOn(camera: SectionCamera, z: number, stretch: number, pixels: number): SectionCamera {
  // The least that shows it plainly: drawn out more than it must be, land looks steeper than it is.
  const isPlain = (times: number): boolean => (stretch * times) / camera.unitsPerPixel >= pixels / 3;
  return { ...camera, exaggeration: EXAGGERATIONS.find(isPlain) ?? EXAGGERATIONS.at(-1)!, z };
}

/** The section after dragging or zooming about a pixel. */
export function draggedSection(camera: SectionCamera, dx: number, dy: number): SectionCamera {
  const { unitsPerPixel, exaggeration } = camera;
  return {
    ...camera,
    station: camera.station - dx * unitsPerPixel,
    z: camera.z + (dy * unitsPerPixel) / exaggeration,
  };
}

export function zoomedSection(
  camera: SectionCamera,
  factor: number,
  at: { readonly station: number; readonly z: number },
): SectionCamera {
  return {
    ...camera,
    unitsPerPixel: camera.unitsPerPixel * factor,
    station: at.station + (camera.station - at.station) * factor,
    z: at.z + (camera.z - at.z) * factor,
  };
}

/** The line moved along itself and across, to its left, by so much each. */
export function walkedLine({ a, b }: SectionLine, along: number, across: number): SectionLine {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const u = [(b[0] - a[0]) / length, (b[1] - a[1]) / length] as const;
  const shift = [u[0] * along - u[1] * across, u[1] * along + u[0] * across] as const;
  return { a: [a[0] + shift[0], a[1] + shift[1]], b: [b[0] + shift[0], b[1] + shift[1]] };
}
