import { computed, Injectable, signal } from '@angular/core';
import type { ForeseenView } from '../viewer/viewer-protocol';

/** Two states of the ground held against each other in the section, one above the other. */
export interface Compared {
  readonly above: string;
  readonly below: string;
  readonly views: readonly ForeseenView[];
}

/** What the section shows twice: as it is, or as settings kept before would have it; and as the settings in the form would. */
@Injectable()
export class GroundComparison {
  readonly compared = signal<Compared | undefined>(undefined);
  readonly isOn = computed(() => this.compared() !== undefined);

  close(): void {
    this.compared.set(undefined);
  }
}
