import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { FactsOf, Figure, ProductKindId } from '@pampero/contract';
import { FactsComponent } from '../shared/facts.component';
import { formatFigure } from '@pampero/contract';
import { JobStore } from '../state/job-store';

/** Kinds of products that bring figures to be read. */
type FiguredKind = {
  [K in ProductKindId]: FactsOf<K> extends { figures: readonly Figure[] } ? K : never;
}[ProductKindId];

/** What was measured or stated, the newest first, with its figures. */
@Component({
  selector: 'pam-figure-cards',
  imports: [FactsComponent],
  template: `
    @for (card of cards(); track card.id) {
      <details [open]="$first" [attr.data-testid]="kind() + '-result'">
        <summary>
          {{ card.name }}
          @if (card.staleBecause; as because) {
            <span class="stale" [title]="because">stale</span>
          }
        </summary>
        <pam-facts [facts]="card.facts" />
      </details>
    }
  `,
  styles: `
    details {
      margin: 8px 0;
      padding: 6px 10px;
      border: 1px solid var(--rule);
      border-radius: 5px;
      background: #fff;
    }
    summary {
      cursor: pointer;
      font-weight: 600;
    }
    .stale {
      margin-left: 6px;
      color: #b45309;
      font-size: 11.5px;
      font-weight: 400;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FigureCardsComponent {
  readonly kind = input.required<FiguredKind>();
  private readonly store = inject(JobStore);
  protected readonly cards = computed(() =>
    [...this.store.of(this.kind())].reverse().map(({ id, name, staleBecause, facts }) => ({
      id,
      name,
      staleBecause,
      facts: facts.figures.map((figure) => ({
        label: figure.label,
        value: formatFigure(figure, this.store.unit()),
      })),
    })),
  );
}
