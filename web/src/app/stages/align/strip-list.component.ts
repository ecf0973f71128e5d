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
            @if (agreement().size > 0) {
              <th>to others</th>
            }
            @if (control().size > 0) {
              <th>to control</th>
            }
            <th>points</th>
            <th>time</th>
            @if (hasWay()) {
              <th>length</th>
              <th>heading</th>
              <th>height</th>
              <th>speed</th>
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
              @if (agreement().size > 0) {
                <td class="num">{{ row.toOthers }}</td>
              }
              @if (control().size > 0) {
                <td class="num">{{ row.toControl }}</td>
              }
              <td class="num">{{ row.points }}</td>
              <td class="num">{{ row.time }}</td>
              @if (hasWay()) {
                <td class="num">{{ row.length }}</td>
                <td class="num">{{ row.heading }}</td>
                <td class="num">{{ row.height }}</td>
                <td class="num">{{ row.speed }}</td>
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
  private readonly compared = computed(() => {
    const newest = this.store.newest('strip-differences');
    return newest && !newest.isStale ? newest.facts : undefined;
  });
  /** RMSDz of each strip to all that it overlaps, by its name. */
  protected readonly agreement = computed(() => {
    const sums = new Map<string, { count: number; squares: number }>();
    for (const { one, two, count, rmsd } of this.compared()?.agreement.pairs ?? [])
      for (const name of [one, two]) {
        const sum = sums.get(name) ?? { count: 0, squares: 0 };
        sums.set(name, { count: sum.count + count, squares: sum.squares + count * rmsd ** 2 });
      }
    return new Map([...sums].map(([name, { count, squares }]) => [name, Math.sqrt(squares / count)]));
  });
  /** RMSEz of each strip to control, by its name. */
  protected readonly control = computed(
    () => new Map((this.compared()?.control ?? []).map(({ strip, rmse }) => [strip, rmse])),
  );

  protected readonly rows = computed(() => {
    const unit = shortUnit(this.store.unit());
    const length = (value: number | undefined): string =>
      value === undefined ? '–' : `${formatNumber(value, 0)} ${unit}`;
    const difference = (value: number | undefined): string =>
      value === undefined ? '–' : `${formatNumber(value, 3)} ${unit}`;
    return this.product().facts.strips.map((strip) => ({
      strip,
      number: strip.number,
      name: strip.name,
      points: formatCount(strip.points),
      time: strip.from === undefined ? '–' : formatSeconds(strip.to! - strip.from),
      length: length(strip.length),
      heading: strip.heading === undefined ? '–' : `${formatNumber(strip.heading, 0)}°`,
      height: length(strip.heightOverGround),
      speed: strip.speed === undefined ? '–' : `${formatNumber(strip.speed, 1)} ${unit}/s`,
      toOthers: difference(this.agreement().get(strip.name)),
      toControl: difference(this.control().get(strip.name)),
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
