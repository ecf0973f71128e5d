import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatIconModule } from '@angular/material/icon';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { designColour } from '../../viewer/design-look';
import { layerOf, LayerStore, type LayerKey } from '../../state/layer-store';

/** Designs side by side with their earthwork: each is shown alone over the ground by a click, or any of them together. */
@Component({
  selector: 'pam-alternatives',
  imports: [MatIconModule],
  template: `
    @if (rows().length > 0) {
      <table data-testid="alternatives">
        <thead>
          <tr>
            <th></th>
            <th>Alternative</th>
            <th class="num">Cut</th>
            <th class="num">Fill</th>
            <th class="num">Net, {{ unit() }}³</th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.key) {
            <tr [class.is-hidden]="!row.isShown">
              <td>
                <button
                  class="plain-button"
                  type="button"
                  [attr.aria-label]="'Show ' + row.name"
                  [attr.aria-pressed]="row.isShown"
                  (click)="layers.setShown(row.key, !row.isShown)"
                >
                  <mat-icon [svgIcon]="row.isShown ? 'shown' : 'hidden'" />
                </button>
              </td>
              <td>
                <span class="swatch" [style.background]="row.colour"></span>
                <button type="button" class="plain-button" title="Show this one alone" (click)="showAlone(row.key)">
                  {{ row.name }}
                </button>
                @if (row.staleBecause; as because) {
                  <span class="stale" [title]="because">stale</span>
                }
                @if (row.open > 0) {
                  <div class="open">{{ row.open }} slope lines do not meet the ground</div>
                }
              </td>
              <td class="num">{{ row.cut }}</td>
              <td class="num">{{ row.fill }}</td>
              <td class="num">{{ row.net }}</td>
            </tr>
          }
        </tbody>
      </table>
    }
  `,
  styles: `
    table {
      width: 100%;
      margin-top: 8px;
      border-collapse: collapse;
      font-size: 12px;
    }
    th {
      font-weight: 500;
      text-align: left;
      color: var(--ink-3);
    }
    th,
    td {
      padding: 2px 4px;
      border-bottom: 1px solid var(--rule);
    }
    .num {
      text-align: right;
      font-family: var(--figures);
      white-space: nowrap;
    }
    .swatch {
      display: inline-block;
      width: 10px;
      height: 10px;
      margin-right: 5px;
      border-radius: 2px;
    }
    mat-icon {
      width: 17px;
      height: 17px;
      vertical-align: middle;
    }
    .is-hidden {
      opacity: 0.55;
    }
    .stale,
    .open {
      color: var(--warn);
      font-size: 11.5px;
    }
    .stale {
      margin-left: 6px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AlternativesComponent {
  private readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly rows = computed(() =>
    this.store.designs().flatMap((product, n) => {
      const { name, staleBecause, facts } = product;
      if (!facts.design) return [];
      const { cut, fill, open } = facts.design;
      const key = layerOf(product);
      const [cutFigure, fillFigure, net] = [cut, fill, fill - cut].map((value) => formatNumber(value, 0));
      return [{ key, name, staleBecause, open, cut: cutFigure, fill: fillFigure, net, colour: designColour(n), isShown: this.layers.isShown(key) }]; // prettier-ignore
    }),
  );

  protected showAlone(key: LayerKey): void {
    for (const { key: each } of this.rows()) this.layers.setShown(each, each === key);
    this.layers.showSurface();
  }
}
