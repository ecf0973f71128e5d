import { computed, inject, Injectable, signal } from '@angular/core';
import { pictureFrameOf } from '@pampero/core/imagery';
import type { DrawnPicture } from '../drawing/drawing-protocol';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';

/** How a picture looks. */
export interface PictureLook {
  /** 0 to 1. */
  readonly opacity: number;
  /** -100 to 100, both. */
  readonly brightness: number;
  readonly contrast: number;
}

const PLAIN: PictureLook = { opacity: 1, brightness: 0, contrast: 0 };

/** Pictures on the ground: how each looks, in which order they lie, and how far they are wiped over the points. */
@Injectable()
export class PictureStore {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  /** By series: a picture that was moved keeps its look. */
  private readonly looks = signal<Readonly<Record<number, PictureLook>>>({});
  private readonly raised = signal<readonly number[]>([]);
  /** Share of Plan, from the left, on which pictures lie over the points. */
  readonly wipe = signal(0);

  /** The lowest first; those that were raised last lie on top. */
  readonly ordered = computed(() => {
    const raised = this.raised();
    return [...this.layers.shownPictures()].sort((a, b) => raised.indexOf(a.seriesId) - raised.indexOf(b.seriesId));
  });

  readonly drawn = computed<readonly DrawnPicture[]>(() => {
    const jobId = this.store.jobId();
    return this.ordered().map(({ id, seriesId, facts }) => {
      const { opacity, brightness, contrast } = this.look(seriesId);
      return {
        jobId,
        tilesOf: facts.tilesOf || id,
        frame: pictureFrameOf(facts),
        levels: facts.levels,
        hasMask: facts.hasMask,
        opacity,
        brightness: brightness * 1.28,
        contrast: 2 ** (contrast / 50),
      };
    });
  });

  look(seriesId: number): PictureLook {
    return this.looks()[seriesId] ?? PLAIN;
  }

  setLook(seriesId: number, change: Partial<PictureLook>): void {
    this.looks.update((all) => ({ ...all, [seriesId]: { ...(all[seriesId] ?? PLAIN), ...change } }));
  }

  /** Lays a picture on top of the others. */
  raise(seriesId: number): void {
    this.raised.update((order) => [...order.filter((id) => id !== seriesId), seriesId]);
  }
}
