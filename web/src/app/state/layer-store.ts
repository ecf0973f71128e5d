import { computed, inject, Injectable, signal } from '@angular/core';
import type { Product, ProductKindId } from '@pampero/contract';
import { flatGridOf } from './flat-grid';
import { JobStore } from './job-store';

/** What has an eye of its own: a cloud, a product, or the notes of the job. */
export type LayerKey = `${'cloud' | ProductKindId}-${number}` | 'notes';

export function layerKey(kind: 'cloud' | ProductKindId, id: number): LayerKey {
  return `${kind}-${id}`;
}

/** The layer of a product. Lines of a code stay the same layer through every edit; others are looked at anew when they are made anew. */
export function layerOf({ kind, id, seriesId }: Pick<Product, 'kind' | 'id' | 'seriesId'>): LayerKey {
  return layerKey(kind, kind === 'lines' ? seriesId : id);
}

/** Which layers are shown, and whether Plan and Model show points or surfaces. */
@Injectable()
export class LayerStore {
  private readonly store = inject(JobStore);

  /** What Plan and Model show of the land; a section always shows points. */
  readonly showing = signal<'points' | 'surface'>('points');
  private readonly hidden = signal<ReadonlySet<LayerKey>>(new Set());
  private readonly lookedAtGrid = signal<{ readonly id: number; readonly part?: string } | undefined>(undefined);

  /** Clouds that are drawn: those shown, and what there is of those coming in. */
  readonly drawnClouds = computed(() => [...this.shownClouds(), ...this.store.comingIn()]);
  readonly shownClouds = computed(() => this.store.clouds().filter(({ id }) => this.isShown(layerKey('cloud', id))));
  readonly shownTrajectories = computed(() =>
    this.store.of('trajectory').filter(({ id }) => this.isShown(layerKey('trajectory', id))),
  );
  readonly shownPhotographs = computed(() =>
    this.store.of('photographs').filter(({ id }) => this.isShown(layerKey('photographs', id))),
  );
  readonly shownContours = computed(() =>
    this.store.contours().filter(({ id }) => this.isShown(layerKey('contours', id))),
  );
  readonly shownPictures = computed(() =>
    this.store.of('picture').filter(({ id }) => this.isShown(layerKey('picture', id))),
  );
  readonly shownMasks = computed(() => this.store.of('mask').filter(({ id }) => this.isShown(layerKey('mask', id))));
  readonly shownSurfaces = computed(() =>
    this.store.surfaces().filter(({ id }) => this.isShown(layerKey('surface', id))),
  );
  /** The last of them: heights are measured from it, and it is drawn over the others. */
  readonly shownSurface = computed(() => this.shownSurfaces().at(-1));
  /** A grid, or a map of differences, that is looked at by itself, in place of the surfaces. */
  readonly shownGrid = computed(() => {
    const wanted = this.lookedAtGrid();
    const product = wanted && this.store.products().find(({ id }) => id === wanted.id);
    return product && flatGridOf(product, wanted.part);
  });
  /** The surface that Plan and Model draw in place of the points. */
  readonly drawnSurface = computed(() =>
    this.showing() === 'surface' && !this.shownGrid() ? this.shownSurface() : undefined,
  );
  /** Whether a surface or a grid is drawn in place of the points. */
  readonly isReliefDrawn = computed(
    () => this.showing() === 'surface' && (this.shownGrid() ?? this.shownSurface()) !== undefined,
  );

  /** Shows a grid by itself; the surfaces, or the points where there is none, come back with undefined. */
  lookAtGrid(id: number | undefined, part?: string): void {
    this.lookedAtGrid.set(id === undefined ? undefined : { id, ...(part !== undefined && { part }) });
    this.showing.set(id !== undefined || this.shownSurface() ? 'surface' : 'points');
  }

  /** Draws surfaces in place of the points. */
  showSurface(): void {
    this.lookedAtGrid.set(undefined);
    this.showing.set('surface');
  }

  isShown(layer: LayerKey): boolean {
    if (layer.startsWith('grid-')) return layer === layerKey('grid', this.shownGrid()?.id ?? -1);
    return !this.hidden().has(layer);
  }

  setShown(layer: LayerKey, isShown: boolean): void {
    if (layer.startsWith('grid-')) {
      this.lookAtGrid(isShown ? Number(layer.slice('grid-'.length)) : undefined);
      return;
    }
    // A surface that is asked for is seen: the grid steps back.
    if (layer.startsWith('surface-') && isShown) this.lookedAtGrid.set(undefined);
    const next = new Set(this.hidden());
    if (isShown) next.delete(layer);
    else next.add(layer);
    this.hidden.set(next);
  }
}
