import { ChangeDetectionStrategy, Component, input } from '@angular/core';

export interface Fact {
  readonly label: string;
  readonly value: string;
}

/** What something is, line by line: the label to the left, the figure to the right. */
@Component({
  selector: 'pam-facts',
  template: `
    <dl>
      @for (fact of facts(); track fact.label) {
        <div>
          <dt>{{ fact.label }}</dt>
          <dd class="num">{{ fact.value }}</dd>
        </div>
      }
    </dl>
  `,
  styles: `
    :host {
      display: block;
    }
    dl {
      margin: 0;
    }
    div {
      display: flex;
      justify-content: space-between;
      gap: 12px;
      padding: 4px 0;
      border-bottom: 1px solid var(--rule);
    }
    dt {
      color: var(--ink-2);
    }
    dd {
      margin: 0;
      text-align: right;
      overflow-wrap: anywhere;
      min-width: 40%;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FactsComponent {
  readonly facts = input.required<readonly Fact[]>();
}
