import { computed, Injectable, signal } from '@angular/core';
import type { PreviewedView } from '../drawing/drawing-protocol';

/** Two states of the ground held against each other in the section, one above the other. */
export interface Compared {
  readonly above: string;
  readonly below: string;
  readonly views: readonly PreviewedView[];
}

/** What the section shows twice: as it is, or as settings kept before would have it; and as the settings in the form would. */
@Injectable()
export class SectionComparison {
  readonly compared = signal<Compared | undefined>(undefined);
  readonly isOn = computed(() => this.compared() !== undefined);

  close(): void {
    this.compared.set(undefined);
  }
}
