import { ChangeDetectionStrategy, Component, computed, input, model } from '@angular/core';
import type { StripAgreement } from '@pampero/contract';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { HistogramComponent } from '../../shared/histogram.component';

/** How strips agree: a histogram of the differences and a row for each two that overlap, the worst first. */
@Component({
  selector: 'pam-agreement',
  imports: [HistogramComponent],
  template: `
    <pam-histogram
      title="difference between strips"
      [counts]="agreement().histogram.bins"
      [low]="-agreement().histogram.halfWidth"
      [high]="agreement().histogram.halfWidth"
      [decimals]="3"
      [unit]="unit()"
      counted="patches"
    />
    <div class="table" tabindex="0" role="region" aria-label="Differences of each two strips">
      <table>
        <thead>
          <tr>
            <th>Strips</th>
            <th>patches</th>
            <th>median</th>
            <th>RMSDz</th>
            <th>95 %</th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.strips) {
            <tr
              [class.beyond]="row.isBeyond"
              [class.chosen]="row.place === pair()"
              [attr.role]="canChoose() ? 'button' : null"
              [attr.tabindex]="canChoose() ? 0 : null"
              [attr.aria-pressed]="canChoose() ? row.place === pair() : null"
              [attr.data-testid]="canChoose() ? 'pair-' + row.place : null"
              (click)="choose(row.place)"
              (keydown.enter)="choose(row.place)"
            >
              <td>{{ row.strips }}</td>
              <td class="num">{{ row.count }}</td>
              <td class="num">{{ row.median }}</td>
              <td class="num">{{ row.rmsd }}</td>
              <td class="num">{{ row.percentile95 }}</td>
            </tr>
          }
        </tbody>
      </table>
    </div>
  `,
  styleUrl: './align-table.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AgreementComponent {
  readonly agreement = input.required<StripAgreement>();
  readonly limit = input.required<number>();
  readonly unit = input.required<string>();
  /** Whether a row shows the map of its two strips alone. */
  readonly canChoose = input(false);
  /** The place in the list of the pair that is looked at. */
  readonly pair = model<number>();

  protected readonly rows = computed(() => {
    const signed = (value: number): string => `${value > 0 ? '+' : ''}${formatNumber(value, 3)}`;
    return this.agreement()
      .pairs.map((pair, place) => ({ ...pair, place }))
      .sort((a, b) => b.rmsd - a.rmsd)
      .map(({ place, one, two, count, median, rmsd, percentile95 }) => ({
        place,
        strips: `${two} less ${one}`,
        count: formatCount(count),
        median: signed(median),
        rmsd: formatNumber(rmsd, 3),
        percentile95: formatNumber(percentile95, 3),
        isBeyond: rmsd > this.limit(),
      }));
  });

  protected choose(place: number): void {
    if (this.canChoose()) this.pair.set(this.pair() === place ? undefined : place);
  }
}
