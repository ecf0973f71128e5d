import { computed, inject, Injectable, signal } from '@angular/core';
import {
  hexOf,
  RAMP_SIZE,
  RAMPS,
  stopsOf,
  tintColour,
  tintRange,
  tintTable,
  type RampId,
  type Tint,
  type TintStop,
} from '@pampero/core/tints';
import { urlOf } from '../api/api-client';
import { shortUnit } from '../shared/format';
import type { DrawnSurface } from '../drawing/drawing-protocol';
import { flatGridOf } from '../state/flat-grid';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { DESIGN_OPACITY, designTable } from './design-look';

/** What a surface is coloured by: its elevation, its slope, or a grid of the job by its number. */
export type TintedBy = 'elevation' | 'slope' | 'pictures' | number;

interface SurfaceLook {
  readonly by: TintedBy;
  readonly ramp: RampId | undefined;
  /** Undefined for the ramp over the whole range. */
  readonly stops: readonly TintStop[] | undefined;
  readonly band: number;
  readonly base: number;
}

const FIRST: SurfaceLook = { by: 'elevation', ramp: 'land', stops: undefined, band: 0, base: 0 };

/** Half light, so that light and shade of the surface both have room over a picture. */
const WHITE = new Uint32Array(RAMP_SIZE).fill(0xff80_8080);

/** How surfaces are tinted, and how much of each hides what is behind it. */
@Injectable()
export class TintStore {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  readonly look = signal<SurfaceLook>(FIRST);
  private readonly opacities = signal<Readonly<Record<number, number>>>({});

  /** Grids that lie over the job and can colour a surface. */
  readonly grids = this.store.grids;
  /** The grid whose values are coloured: one that is looked at by itself, or that colours a surface. */
  private readonly grid = computed(() => {
    const tinting = this.grids().find(({ id }) => id === this.look().by);
    return this.layers.shownGrid() ?? (tinting && flatGridOf(tinting));
  });
  private readonly by = computed<TintedBy>(() => {
    const { by } = this.look();
    if (this.layers.shownGrid()) return by === 'slope' || by === 'pictures' ? by : 'elevation';
    if (by === 'pictures' && this.layers.shownPictures().length === 0) return 'elevation';
    return typeof by === 'number' && !this.grid() ? 'elevation' : by;
  });
  /** What the values of the tint are in. */
  readonly unit = computed(() =>
    this.by() === 'slope' ? '°' : this.grid()?.isCount ? '' : shortUnit(this.store.unit()),
  );
  /** Differences are told by colours to either side of nothing. */
  readonly isTwoSided = computed(() => this.grid()?.isDifference ?? false);

  /** Range that the ramp is laid over where no stop has been moved. */
  readonly range = computed<readonly [number, number]>(() => {
    const by = this.by();
    const grid = this.grid();
    if (by === 'slope') return [0, 45];
    if (grid) {
      const { lowest: low, highest: high } = grid;
      if (!this.isTwoSided()) return [low, high];
      const far = Math.max(Math.abs(low), Math.abs(high)) || 1;
      return [-far, far];
    }
    const surfaces = this.layers.shownSurfaces();
    if (surfaces.length === 0) return [0, 1];
    return [
      Math.min(...surfaces.map(({ facts }) => facts.lowest)),
      Math.max(...surfaces.map(({ facts }) => facts.highest)),
    ];
  });

  readonly ramp = computed<RampId>(() => {
    const { ramp, by } = this.look();
    // What was chosen for surfaces does not hold for a grid of another kind that is looked at by itself.
    if (this.layers.shownGrid() && ramp === 'land' && by !== 'slope' && this.isTwoSided()) return 'either-side';
    return ramp ?? (this.isTwoSided() ? 'either-side' : 'land');
  });
  readonly stops = computed<readonly TintStop[]>(() => this.look().stops ?? stopsOf(this.ramp(), ...this.range()));
  readonly tint = computed<Tint>(() => {
    const { band, base } = this.look();
    return { stops: this.stops(), band, base };
  });

  /** The colours over their range as a CSS gradient, for legends. */
  readonly gradient = computed(() => {
    const tint = this.tint();
    const [low, high] = tintRange(tint);
    const steps = 48;
    const stops = Array.from({ length: steps }, (_, i) => {
      const colour = hexOf(tintColour(tint, low + ((high - low) * (i + 0.5)) / steps));
      return `${colour} ${(100 * i) / steps}% ${(100 * (i + 1)) / steps}%`;
    });
    return `linear-gradient(90deg, ${stops.join(', ')})`;
  });

  /** Whether the pictures that are shown lie over the surfaces, in place of tints. */
  readonly areDraped = computed(() => this.by() === 'pictures');

  readonly drawn = computed<readonly DrawnSurface[]>(() => {
    const jobId = this.store.jobId();
    const shownAt = (productId: number, part?: string): string =>
      urlOf('showProduct', { params: { jobId, productId }, query: { part } });
    const tint = this.tint();
    const [low, high] = tintRange(tint);
    const by = this.by();
    const look = {
      table: by === 'pictures' ? WHITE : tintTable(tint),
      low,
      high,
      by: typeof by === 'number' ? { url: shownAt(by) } : by === 'pictures' ? ('elevation' as const) : by,
    };
    const alone = this.layers.shownGrid();
    if (alone) {
      // Differences and counts are no heights: they lie flat.
      const isFlat = alone.isDifference || alone.isCount;
      const url = shownAt(alone.id, alone.part);
      return [{ url, productId: alone.id, tint: { ...look, by: isFlat ? { url } : look.by }, opacity: 1, isFlat }];
    }
    const designs = this.store.designs().map(({ id }) => id);
    // A design lies over the ground, whichever is newer.
    const shown = this.layers.shownSurfaces().map(({ id }) => ({ id, design: designs.indexOf(id) }));
    return shown
      .sort((a, b) => Math.sign(a.design) - Math.sign(b.design))
      .map(({ id, design }) => ({
        url: shownAt(id),
        productId: id,
        tint: design < 0 ? look : { ...look, table: designTable(design), by: 'elevation' as const },
        opacity: this.opacity(id),
      }));
  });

  /** Ramps of the surveyor’s own, kept in the job. */
  readonly own = computed(() =>
    this.store
      .pins()
      .flatMap(({ id, kind, name, body }) =>
        kind === 'ramp' ? [{ id, name, stops: body['stops'] as readonly TintStop[] }] : [],
      ),
  );
  readonly ramps = RAMPS;

  opacity(surfaceId: number): number {
    const usual = this.store.designs().some(({ id }) => id === surfaceId) ? DESIGN_OPACITY : 1;
    return this.opacities()[surfaceId] ?? usual;
  }

  setOpacity(surfaceId: number, opacity: number): void {
    this.opacities.update((all) => ({ ...all, [surfaceId]: opacity }));
  }

  colourBy(by: TintedBy): void {
    const grid = this.grids().find(({ id }) => id === by);
    const ramp = by === 'slope' ? 'dusk' : grid?.facts.isDifference ? 'either-side' : 'land';
    this.look.set({ ...FIRST, by, ramp });
  }

  useRamp(ramp: RampId): void {
    this.look.update((look) => ({ ...look, ramp, stops: undefined }));
  }

  useStops(stops: readonly TintStop[]): void {
    this.look.update((look) => ({ ...look, stops: [...stops].sort((a, b) => a.value - b.value) }));
  }

  /** Bands of this height, 0 for colours that go over. */
  useBands(band: number, base = 0): void {
    this.look.update((look) => ({ ...look, band, base }));
  }

  keep(name: string): void {
    this.store.pin({ kind: 'ramp', name, stops: [...this.stops()] });
  }
}
