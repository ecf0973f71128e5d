import { inject, Injectable, signal } from '@angular/core';
import { GROUND } from '@pampero/core/cloud';
import { sourceNumber, type Corner, type Magnet, type Snap } from '@pampero/core/lines';
import { sectionLength, sectionToScene } from '../../drawing/cameras';
import type { ViewId } from '../../drawing/view-id';
import { LineStore } from '../../state/line-store';
import { DrawingLink } from '../../viewer/drawing-link';
import { ViewCameras } from '../../viewer/view-cameras';
import { toggled } from '../../shared/toggled';

/** Where a corner's elevation is taken from. */
export const HEIGHT_SOURCES = ['nearest', 'lowest', 'median', 'surface', 'typed'] as const;
export type HeightSource = (typeof HEIGHT_SOURCES)[number];
export const HEIGHT_SOURCE_NAMES: Readonly<Record<HeightSource, string>> = {
  nearest: 'nearest point',
  lowest: 'lowest point in a circle',
  median: 'middle point in a circle',
  surface: 'surface',
  typed: 'typed',
};

/** What a place is drawn to. */
export type Pull = Magnet | 'point';

/** Where a corner would go, with what drew it there. */
export interface FoundPlace extends Corner {
  readonly pull?: Pull;
  readonly snap?: Snap;
}

/** Pixels within which a magnet draws. */
const REACH = 11;

/** Finds the place in space that is meant by a pixel of a view: by the magnets that are on, and by where elevations come from. */
@Injectable()
export class LinePlaces {
  private readonly cameras = inject(ViewCameras);
  private readonly link = inject(DrawingLink);
  private readonly lines = inject(LineStore);

  readonly heightSource = signal<HeightSource>('nearest');
  /** Of the circle that points are looked for in, job units. */
  readonly radius = signal(0.5);
  readonly typed = signal<number | undefined>(undefined);
  readonly pulls = signal<ReadonlySet<Pull>>(new Set(['corner', 'crossing', 'side', 'perpendicular']));

  togglePull(pull: Pull): void {
    this.pulls.update((pulls) => toggled(pulls, pull));
  }

  /** Where a corner is seen; one without an elevation at the level the job is drawn about. */
  pixelOf(view: ViewId, { e, n, z }: Pick<Corner, 'e' | 'n' | 'z'>): [number, number] | undefined {
    return this.cameras.project(view, [e, n, Number.isNaN(z) ? this.cameras.origin()[2] : z]);
  }

  /** The place in plan under a pixel; undefined where a view shows none there. */
  planPlace(view: ViewId, px: number, py: number): { e: number; n: number; z?: number } | undefined {
    const [ox, oy, oz] = this.cameras.origin();
    const { width, height } = this.cameras.places()[view];
    if (view === 'plan') {
      const [x, y] = this.cameras.hold('plan', px, py);
      return { e: x + ox, n: y + oy };
    }
    const camera = this.cameras.section();
    if (view === 'model' || !camera) return undefined;
    const { station, z } = sectionToScene(camera, px, py, width, height);
    const share = station / (sectionLength(camera) || 1);
    return {
      e: camera.ax + (camera.bx - camera.ax) * share + ox,
      n: camera.ay + (camera.by - camera.ay) * share + oy,
      z: z + oz,
    };
  }

  /**
   * The place that is meant, in full. A magnet on a line holds place and elevation; otherwise the elevation comes from where the surveyor
   * wants it from, and is missing where nothing is.
   * @param hold - puts a free place where the leg is held
   * @param from - the corner before, for the foot on a line
   */
  async find(
    view: ViewId,
    px: number,
    py: number,
    { hold = (place) => place, from, without }: { hold?: (place: readonly [number, number]) => readonly [number, number]; from?: Corner | undefined; without?: (snap: Snap) => boolean } = {}, // prettier-ignore
  ): Promise<FoundPlace | undefined> {
    const place = this.planPlace(view, px, py);
    if (view !== 'plan') return this.findInSpace(view, px, py, place);
    if (!place) return undefined;
    const snap = this.snap(place.e, place.n, from, without);
    if (snap && !Number.isNaN(snap.elevation)) {
      const line = this.lines.shownLines()[snap.line]!;
      const source = snap.corner === undefined ? sourceNumber('between') : line.source[snap.corner]!;
      return { e: snap.easting, n: snap.northing, z: snap.elevation, source, pull: snap.magnet, snap };
    }
    const [e, n] = snap ? [snap.easting, snap.northing] : hold([place.e, place.n]);
    const pull = snap && { pull: snap.magnet, snap };
    return { ...(await this.withHeight(e, n, pull !== undefined)), ...pull };
  }

  /** In a section or in Model the point that is seen says where it is. */
  private async findInSpace(
    view: ViewId,
    px: number,
    py: number,
    place: { e: number; n: number; z?: number } | undefined,
  ): Promise<FoundPlace | undefined> {
    const { height } = this.cameras.places()[view];
    const source = this.heightSource();
    const isByPoints = source === 'nearest' || source === 'lowest' || source === 'median';
    const picked = view === 'model' || isByPoints ? await this.link.pick(view, px, height - py) : undefined;
    if (picked && isByPoints) {
      const { easting, northing, elevation } = picked;
      if (source === 'nearest') return { e: easting, n: northing, z: elevation, source: sourceNumber('point'), pull: 'point' }; // prettier-ignore
      return this.withHeight(easting, northing, true);
    }
    const at = picked ? { e: picked.easting, n: picked.northing } : place;
    if (!at) return undefined;
    if (!isByPoints) return this.withHeight(at.e, at.n, true);
    // No point there: in a section the pointer itself has a height.
    return place?.z === undefined ? undefined : { e: place.e, n: place.n, z: place.z, source: sourceNumber('typed') };
  }

  snap(e: number, n: number, from?: Corner, without?: (snap: Snap) => boolean): Snap | undefined {
    const wanted = new Set([...this.pulls()].filter((pull): pull is Magnet => pull !== 'point'));
    if (wanted.size === 0) return undefined;
    const reach = REACH * this.cameras.plan().unitsPerPixel;
    const snap = this.lines.index().snap(e, n, reach, wanted, from && [from.e, from.n]);
    return snap && without?.(snap) ? undefined : snap;
  }

  /** A place with its elevation from where the surveyor wants it. */
  async withHeight(e: number, n: number, keepsPlace: boolean): Promise<FoundPlace> {
    const [ox, oy, oz] = this.cameras.origin();
    const none = { e, n, z: NaN, source: 0 };
    const source = this.heightSource();
    if (source === 'typed') {
      const z = this.typed();
      return z === undefined ? none : { e, n, z, source: sourceNumber('typed') };
    }
    if (source === 'surface') {
      const answer = await this.link.ask('surfaceAt', { at: [e - ox, n - oy], from: undefined });
      return answer?.elevation === undefined ? none : { e, n, z: answer.elevation, source: sourceNumber('surface') };
    }
    // The nearest point may lie where the circle ends; further off it says nothing of this place.
    const around = await this.link.ask('around', { at: [e - ox, n - oy], radius: this.radius(), classes: [GROUND] });
    if (!around) return none;
    const point = sourceNumber('point');
    if (source === 'lowest') return { e, n, z: around.lowest + oz, source: point };
    if (source === 'median') return { e, n, z: around.median + oz, source: point };
    const [x, y, z] = around.nearest;
    const moves = !keepsPlace && this.pulls().has('point');
    return moves
      ? { e: x + ox, n: y + oy, z: z + oz, source: point, pull: 'point' }
      : { e, n, z: z + oz, source: point };
  }
}
