import { computed, Injectable, signal } from '@angular/core';
import type { MaskRingResource } from '@pampero/contract';

/** Land that something covers, drawn over Plan half seen through. */
export interface PlanCover {
  readonly key: string;
  readonly look: 'kept' | 'preview';
  readonly rings: readonly MaskRingResource[];
}

/** Covers that stages put over Plan, each set under a name of its own. */
@Injectable()
export class PlanCovers {
  private readonly sets = signal<ReadonlyMap<string, readonly PlanCover[]>>(new Map());
  readonly all = computed(() => [...this.sets().values()].flat());

  set(name: string, covers: readonly PlanCover[]): void {
    if (covers.length === 0 && !this.sets().has(name)) return;
    this.sets.update((sets) => {
      const next = new Map(sets);
      if (covers.length > 0) next.set(name, covers);
      else next.delete(name);
      return next;
    });
  }
}
