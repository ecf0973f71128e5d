import { computed, inject, Injectable, signal } from '@angular/core';
import {
  hexOf,
  RAMPS,
  stopsOf,
  tintColour,
  tintRange,
  tintTable,
  type RampId,
  type Tint,
  type TintStop,
} from '@pampero/core/tints';
import { shortUnit } from '../shared/format';
import type { DrawnSurface } from '../viewer/viewer-protocol';
import { WorkbenchStore } from '../workbench/workbench-store';

/** What a surface is coloured by: its elevation, its slope, or a grid of the job by its number. */
export type TintedBy = 'elevation' | 'slope' | number;

interface SurfaceLook {
  readonly by: TintedBy;
  readonly ramp: RampId | undefined;
  /** Undefined for the ramp over the whole range. */
  readonly stops: readonly TintStop[] | undefined;
  readonly band: number;
  readonly base: number;
}

const FIRST: SurfaceLook = { by: 'elevation', ramp: 'land', stops: undefined, band: 0, base: 0 };

/** How surfaces are tinted, and how much of each hides what is behind it. */
@Injectable()
export class TintStore {
  private readonly store = inject(WorkbenchStore);
  readonly look = signal<SurfaceLook>(FIRST);
  private readonly opacities = signal<Readonly<Record<number, number>>>({});

  /** Grids that lie over the job and can colour a surface. */
  readonly grids = this.store.grids;
  /** The grid whose values are coloured: one that is looked at by itself, or that colours a surface. */
  private readonly grid = computed(
    () => this.store.shownGrid() ?? this.grids().find(({ id }) => id === this.look().by),
  );
  private readonly by = computed<TintedBy>(() => {
    const { by } = this.look();
    if (this.store.shownGrid()) return by === 'slope' ? by : 'elevation';
    return typeof by === 'number' && !this.grid() ? 'elevation' : by;
  });
  /** What the values of the tint are in. */
  readonly unit = computed(() =>
    this.by() === 'slope' ? '°' : this.grid()?.facts['isCount'] === true ? '' : shortUnit(this.store.unit()),
  );
  /** Differences are told by colours to either side of nothing. */
  readonly isTwoSided = computed(() => this.grid()?.facts['isDifference'] === true);

  /** Range that the ramp is laid over where no stop has been moved. */
  readonly range = computed<readonly [number, number]>(() => {
    const by = this.by();
    const grid = this.grid();
    if (by === 'slope') return [0, 45];
    if (grid) {
      const [low, high] = [Number(grid.facts['lowest']), Number(grid.facts['highest'])];
      if (!this.isTwoSided()) return [low, high];
      const far = Math.max(Math.abs(low), Math.abs(high)) || 1;
      return [-far, far];
    }
    const surfaces = this.store.shownSurfaces();
    if (surfaces.length === 0) return [0, 1];
    return [
      Math.min(...surfaces.map(({ facts }) => facts.lowest)),
      Math.max(...surfaces.map(({ facts }) => facts.highest)),
    ];
  });

  readonly ramp = computed<RampId>(() => {
    const { ramp, by } = this.look();
    // What was chosen for surfaces does not hold for a grid of another kind that is looked at by itself.
    if (this.store.shownGrid() && ramp === 'land' && by !== 'slope' && this.isTwoSided()) return 'either-side';
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

  readonly drawn = computed<readonly DrawnSurface[]>(() => {
    const jobId = this.store.jobId();
    const tint = this.tint();
    const [low, high] = tintRange(tint);
    const by = this.by();
    const look = {
      table: tintTable(tint),
      low,
      high,
      by: typeof by === 'number' ? { url: `/api/jobs/${jobId}/grids/${by}/grid` } : by,
    };
    const alone = this.store.shownGrid();
    if (alone) {
      // Differences and counts are no heights: they lie flat.
      const isFlat = alone.facts['isDifference'] === true || alone.facts['isCount'] === true;
      const url = `/api/jobs/${jobId}/grids/${alone.id}/grid`;
      return [{ url, tint: { ...look, by: isFlat ? { url } : look.by }, opacity: 1, isFlat }];
    }
    return this.store.shownSurfaces().map(({ id }) => ({
      url: `/api/jobs/${jobId}/surfaces/${id}/grid`,
      tint: look,
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
    return this.opacities()[surfaceId] ?? 1;
  }

  setOpacity(surfaceId: number, opacity: number): void {
    this.opacities.update((all) => ({ ...all, [surfaceId]: opacity }));
  }

  colourBy(by: TintedBy): void {
    const grid = this.grids().find(({ id }) => id === by);
    const ramp = by === 'slope' ? 'dusk' : grid?.facts['isDifference'] === true ? 'either-side' : 'land';
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
