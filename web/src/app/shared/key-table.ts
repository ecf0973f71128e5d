import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { createKeybindingsHandler } from 'tinykeys';

/** A shortcut: what is pressed, what it does, and how the list of keys says it. */
export interface Key {
  /** As the key library has them: "Shift+Digit1", "$mod+z", "q". Nothing for what the views do with the pointer. */
  readonly press: readonly string[];
  /** What the list says is pressed: "Ctrl Z". */
  readonly shown: string;
  /** What the list says it does; keys with the same words stand in one row. */
  readonly does: string;
  /** Only then it is this key's; otherwise the next with the same press is asked. */
  readonly when?: () => boolean;
  readonly run?: (event: KeyboardEvent) => void;
}

/** Fields that are typed in, dialogs and menus keep their keys. */
const KEEPS_KEYS = 'input, select, textarea, mat-select, [role="dialog"], [role="menu"]';

/**
 * Pampero's keys, by whoever answers to them. One listener serves all, and the list of keys is made of the same entries: a
 * key that works is listed.
 */
@Injectable()
export class KeyTable {
  private readonly sets = signal<readonly (readonly Key[])[]>([]);
  /** Those asked first stand first. */
  readonly keys = computed(() => this.sets().flat());
  /** The list of keys: what does the same is one row. */
  readonly rows = computed(() => {
    const rows = new Map<string, { shown: string; does: string }>();
    for (const { shown, does } of this.keys()) {
      const row = rows.get(does);
      if (!row) rows.set(does, { shown, does });
      else if (!row.shown.split(', ').includes(shown)) row.shown += `, ${shown}`;
    }
    return [...rows.values()];
  });
  private readonly handler = computed(() => {
    const byPress = new Map<string, Key[]>();
    for (const key of this.keys()) {
      if (!key.run) continue;
      for (const press of key.press) byPress.set(press, [...(byPress.get(press) ?? []), key]);
    }
    return createKeybindingsHandler(
      Object.fromEntries(
        [...byPress].map(([press, keys]) => [
          press,
          (event: KeyboardEvent) => {
            const key = keys.find(({ when }) => when?.() ?? true);
            if (!key) return;
            event.preventDefault();
            key.run!(event);
          },
        ]),
      ),
    );
  });

  /** Answers to keys until the one who asks is destroyed; asked before those that were there, if it says so. */
  add(keys: readonly Key[], { first = false }: { readonly first?: boolean } = {}): void {
    this.sets.update((sets) => (first ? [keys, ...sets] : [...sets, keys]));
    inject(DestroyRef).onDestroy(() => this.sets.update((sets) => sets.filter((set) => set !== keys)));
  }

  /** A key pressed anywhere in the page. */
  pressed(event: KeyboardEvent): void {
    const { target } = event;
    if (target instanceof HTMLElement && target.closest(KEEPS_KEYS)) return;
    this.handler()(event);
  }
}
