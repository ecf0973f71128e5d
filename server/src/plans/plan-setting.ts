import type { PlanBounds } from '@pampero/core/raster';
import type { PlanContent } from './plan-content.js';
import type { PlanLayout } from './plan-layout.js';

/** What the strip at the foot says in words. */
export interface PlanWords {
  readonly title: string;
  readonly job: string;
  readonly client: string;
  readonly drawnBy: string;
  readonly number: string;
  readonly note: string;
  readonly drawnOn: string;
  /** "EPSG:5347, POSGAR 2007 / Argentina 5". */
  readonly system: string;
  /** "m". */
  readonly unit: string;
  readonly paper: string;
  /** What it was made from, with revisions. */
  readonly source: string;
  readonly isStale: boolean;
}

export interface PlanSystem {
  readonly epsg: number;
  readonly proj4: string;
  readonly wkt: string | undefined;
}

export interface PlanSetting {
  readonly layout: PlanLayout;
  readonly content: PlanContent;
  readonly words: PlanWords;
  readonly metresPerUnit: number;
  /** Set where the job's system is known: the sheets then open at their place. */
  readonly system: PlanSystem | undefined;
  /** The picture over the land of a sheet, as a JPEG. */
  readonly pictureOf: (window: PlanBounds) => Promise<Buffer | undefined>;
}
