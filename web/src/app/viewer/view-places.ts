import type { ViewId } from '../drawing/view-id';
import type { ViewPlace } from './picture-sink';

/** Of the views' height: one section, and each of two one above the other. */
export const SECTION_HEIGHT_SHARE = 0.36;
const COMPARED_HEIGHT_SHARE = 0.31;
/** Pixels between a section and what is above it. */
const GAP = 3;

export interface ViewLayout {
  readonly width: number;
  readonly height: number;
  /** Plan and Model side by side. */
  readonly isBoth: boolean;
  readonly hasSection: boolean;
  /** A second section, as the ground would be, below the first. */
  readonly isCompared: boolean;
}

/** Where each view lies on the canvas, in pixels from its upper left. */
export function viewPlaces({ width, height, isBoth, hasSection, isCompared }: ViewLayout): Record<ViewId, ViewPlace> {
  const section = hasSection ? Math.round(height * (isCompared ? COMPARED_HEIGHT_SHARE : SECTION_HEIGHT_SHARE)) : 0;
  const below = isCompared && section ? section + GAP : 0;
  const top = height - below - section - (section ? GAP : 0);
  const half = Math.floor(width / 2);
  return {
    plan: { left: 0, top: 0, width: isBoth ? half - 1 : width, height: top },
    model: { left: isBoth ? half + 1 : 0, top: 0, width: isBoth ? width - half - 1 : width, height: top },
    section: { left: 0, top: height - below - section, width, height: section },
    after: { left: 0, top: height - section, width, height: section },
  };
}

/** The section, or the section as it would be. */
export function isSection(view: ViewId): boolean {
  return view === 'section' || view === 'after';
}
