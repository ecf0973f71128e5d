import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { ProductOf, Strip } from '@pampero/contract';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatSeconds } from '@pampero/contract';
import { JobStore } from '../../state/job-store';
import { SelectionStore } from '../../tools/selection-store';

/** The strips of a cloud, one a row; a click selects its points everywhere. */
@Component({
  selector: 'pam-strip-list',
  template: `
    <div class="table" tabindex="0" role="region" aria-label="Strips">
      <table>
        <thead>
          <tr>
            <th>Strip</th>
            <th>points</th>
            <th>time</th>
            @if (hasWay()) {
              <th>length</th>
              <th>heading</th>
              <th>height</th>
            }
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.number) {
            <tr
              role="button"
              tabindex="0"
              [class.held]="row.isLeftOut"
              [attr.data-testid]="'strip-' + row.number"
              (click)="select(row.strip)"
              (keydown.enter)="select(row.strip)"
            >
              <td>{{ row.name }}{{ row.isLeftOut ? ' (left out)' : '' }}</td>
              <td class="num">{{ row.points }}</td>
              <td class="num">{{ row.time }}</td>
              @if (hasWay()) {
                <td class="num">{{ row.length }}</td>
                <td class="num">{{ row.heading }}</td>
                <td class="num">{{ row.height }}</td>
              }
            </tr>
          }
        </tbody>
      </table>
    </div>
  `,
  styleUrl: './align-table.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StripListComponent {
  readonly product = input.required<ProductOf<'strips'>>();
  private readonly store = inject(JobStore);
  private readonly selection = inject(SelectionStore);

  protected readonly hasWay = computed(() => this.product().facts.strips.some(({ length }) => length !== undefined));
  protected readonly rows = computed(() => {
    const unit = shortUnit(this.store.unit());
    const length = (value: number | undefined): string =>
      value === undefined ? '–' : `${formatNumber(value, 0)} ${unit}`;
    return this.product().facts.strips.map((strip) => ({
      strip,
      number: strip.number,
      name: strip.name,
      points: formatCount(strip.points),
      time: strip.from === undefined ? '–' : formatSeconds(strip.to! - strip.from),
      length: length(strip.length),
      heading: strip.heading === undefined ? '–' : `${formatNumber(strip.heading, 0)}°`,
      height: length(strip.heightOverGround),
      isLeftOut: strip.isLeftOut,
    }));
  });

  protected select(strip: Strip): void {
    this.selection.draw(
      strip.sourceId === undefined
        ? { kind: 'range', attribute: 'gps-time', from: strip.from!, to: strip.to! }
        : { kind: 'range', attribute: 'strip', from: strip.sourceId, to: strip.sourceId },
    );
  }
}
