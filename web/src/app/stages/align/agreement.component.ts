import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
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
            <tr [class.beyond]="row.isBeyond">
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

  protected readonly rows = computed(() => {
    const signed = (value: number): string => `${value > 0 ? '+' : ''}${formatNumber(value, 3)}`;
    return [...this.agreement().pairs]
      .sort((a, b) => b.rmsd - a.rmsd)
      .map(({ one, two, count, median, rmsd, percentile95 }) => ({
        strips: `${two} less ${one}`,
        count: formatCount(count),
        median: signed(median),
        rmsd: formatNumber(rmsd, 3),
        percentile95: formatNumber(percentile95, 3),
        isBeyond: rmsd > this.limit(),
      }));
  });
}
