import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { FactsComponent } from '../../shared/facts.component';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { Cloud } from '@pampero/contract';
import { catchError, of, switchMap } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatShare } from '@pampero/contract';
import { HistogramComponent } from '../../shared/histogram.component';
import { JobStore } from '../../state/job-store';
import { DensityMapComponent } from './density-map.component';

/** Pulses a square metre that the USGS Lidar Base Specification asks of its quality levels (from memory). */
const QUALITY_LEVELS = [
  { name: 'QL1', pulses: 8 },
  { name: 'QL2', pulses: 2 },
] as const;

/** What was gathered of a cloud as it came in: findings, density, histograms, returns. */
@Component({
  selector: 'pam-cloud-report',
  imports: [FactsComponent, DensityMapComponent, HistogramComponent],
  template: `
    @if (report(); as r) {
      @for (finding of r.findings; track finding.message) {
        @if (finding.level === 'warning') {
          <div class="notice" data-testid="finding">{{ finding.message }}</div>
        } @else {
          <p class="soft note">{{ finding.message }}</p>
        }
      }
      <pam-density-map [map]="r.density.map" [unit]="'points/' + unit() + '²'" />
      <pam-facts [facts]="facts()" />
      <pam-histogram
        title="elevation"
        [counts]="r.elevation.counts"
        [low]="r.elevation.low"
        [high]="r.elevation.high"
        [decimals]="1"
        [unit]="unit()"
      />
      <pam-histogram
        title="intensity"
        [counts]="r.intensity.counts"
        [low]="r.intensity.low"
        [high]="r.intensity.high"
      />
    }
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CloudReportComponent {
  readonly cloud = input.required<Cloud>();
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly cloudId = computed(() => this.cloud().id);

  protected readonly report = toSignal(
    toObservable(this.cloudId).pipe(
      switchMap((cloudId) =>
        this.api
          .call('readCloudReport', { params: { jobId: this.store.jobId(), cloudId } })
          .pipe(catchError(() => of(undefined))),
      ),
    ),
  );
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly facts = computed(() => {
    const report = this.report();
    if (!report) return [];
    const { density, returns, time } = report;
    const unit = this.unit();
    const total = Math.max(1, this.cloud().pointCount);
    const level = unit === 'm' && time ? QUALITY_LEVELS.find(({ pulses }) => density.pulses >= pulses) : undefined;
    return [
      {
        label: 'Density',
        value: `${formatNumber(density.points, 1)} points, ${formatNumber(density.pulses, 1)} pulses/${unit}²`,
      },
      ...(level ? [{ label: 'USGS pulse density', value: level.name }] : []),
      { label: 'Spacing', value: `${formatNumber(density.spacing, 2)} ${unit}` },
      { label: 'Area with points', value: `${formatNumber(density.area, 0)} ${unit}²` },
      { label: 'Holes', value: formatShare(density.voidShare) },
      { label: 'Single returns', value: formatShare(returns.single / total) },
      {
        label: 'First, middle, last',
        value: [returns.first, returns.intermediate, returns.last].map(formatCount).join(', '),
      },
      ...(time ? [{ label: 'Time span', value: `${formatNumber(time.last - time.first, 0)} s` }] : []),
    ];
  });
}
