import { computed, signal } from '@angular/core';

/** What stages put over a view, each set under a name of its own. */
export class NamedSets<T> {
  private readonly sets = signal<ReadonlyMap<string, readonly T[]>>(new Map());
  readonly all = computed(() => [...this.sets().values()].flat());

  /** Puts a set in the place of the one of its name; an empty one takes it away. */
  set(name: string, members: readonly T[]): void {
    if (members.length === 0 && !this.sets().has(name)) return;
    this.sets.update((sets) => {
      const next = new Map(sets);
      if (members.length > 0) next.set(name, members);
      else next.delete(name);
      return next;
    });
  }
}
