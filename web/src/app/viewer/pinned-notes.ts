import { computed, inject, type Signal } from '@angular/core';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { ViewCameras } from './view-cameras';
import type { ViewId } from '../drawing/view-id';

export interface NoteMark {
  readonly id: number;
  readonly name: string;
  readonly x: number;
  readonly y: number;
}

/** Notes of the job that lie in a view, in its pixels. */
export function notesIn(view: ViewId): Signal<readonly NoteMark[]> {
  const store = inject(JobStore);
  const layers = inject(LayerStore);
  const cameras = inject(ViewCameras);
  return computed(() => {
    const { width, height } = cameras.places()[view];
    return store.pins().flatMap(({ id, kind, name, body }) => {
      if (kind !== 'note' || !layers.isShown('notes')) return [];
      const at = cameras.project(view, body['place'] as [number, number, number]);
      return at && at[0] > -20 && at[1] > -20 && at[0] < width + 20 && at[1] < height + 20
        ? [{ id, name, x: at[0], y: at[1] }]
        : [];
    });
  });
}
