import { computed, Injectable, signal } from '@angular/core';

/** Something pointed at in Plan: an area outlined, a dot, or a ring about a place. */
export interface PlanMark {
  readonly key: string;
  readonly kind: 'area' | 'dot' | 'ring';
  readonly easting: number;
  readonly northing: number;
  readonly outline?: readonly (readonly [number, number])[];
}

/** Marks that stages put over Plan, each under a name of its own. */
@Injectable()
export class PlanMarks {
  private readonly sets = signal<ReadonlyMap<string, readonly PlanMark[]>>(new Map());
  readonly all = computed(() => [...this.sets().values()].flat());

  set(name: string, marks: readonly PlanMark[]): void {
    if (marks.length === 0 && !this.sets().has(name)) return;
    this.sets.update((sets) => {
      const next = new Map(sets);
      if (marks.length > 0) next.set(name, marks);
      else next.delete(name);
      return next;
    });
  }
}
