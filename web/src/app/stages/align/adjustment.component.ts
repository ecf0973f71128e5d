import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import type { ProductOf } from '@pampero/contract';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { urlOf } from '../../api/api-client';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { AgreementComponent } from './agreement.component';
import { DifferenceMapComponent } from './difference-map.component';
import { StripSectionComponent } from './strip-section.component';

/** Rows of corrections that are listed; the report has them all. */
const MOST_LISTED = 60;

/** An adjustment before it is applied: what it corrects, what is left, and what control says of it. */
@Component({
  selector: 'pam-adjustment',
  imports: [AgreementComponent, DifferenceMapComponent, MatButtonModule, MatIconModule, StripSectionComponent],
  template: `
    <div class="notice" [class.good]="verdict().isGood" data-testid="adjustment-verdict">{{ verdict().text }}</div>
    @for (remark of facts().remarks; track remark) {
      <p class="soft">{{ remark }}</p>
    }
    <pam-difference-map
      [productId]="product().id"
      [frame]="facts().map"
      [halfWidth]="facts().before.histogram.halfWidth"
      [unit]="unit()"
      [parts]="mapParts"
      (chosen)="placed.emit($event)"
    />
    @if (canApply()) {
      <pam-strip-section [product]="product()" />
    }
    <div class="table" tabindex="0" role="region" aria-label="Corrections">
      <table>
        <thead>
          <tr>
            <th>Correction</th>
            <th>value</th>
            <th>±</th>
          </tr>
        </thead>
        <tbody>
          @for (row of corrections(); track row.label) {
            <tr [class.held]="row.isHeld">
              <td class="wrap">{{ row.label }}</td>
              <td class="num">{{ row.value }}</td>
              <td class="num">{{ row.deviation }}</td>
            </tr>
          }
        </tbody>
      </table>
    </div>
    @if (control(); as c) {
      <p class="soft" data-testid="adjustment-control">{{ c }}</p>
    }
    <details>
      <summary>Each two strips, after</summary>
      <pam-agreement [agreement]="facts().after" [limit]="facts().limits.between" [unit]="unit()" />
    </details>
    <div class="act">
      @if (canApply()) {
        <button mat-flat-button type="button" data-testid="run-apply-adjustment" (click)="apply()">
          Apply the corrections
        </button>
      }
      <a mat-stroked-button [href]="reportUrl()" download data-testid="adjustment-report"
        ><mat-icon svgIcon="download" />Report, PDF</a
      >
    </div>
    @if (!canApply()) {
      <p class="soft">{{ appliedText() }}</p>
    }
  `,
  styleUrls: ['../../sheets/sheet.scss', './align-table.scss'],
  styles: `
    summary {
      cursor: pointer;
      color: var(--ink-2);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AdjustmentComponent {
  readonly product = input.required<ProductOf<'adjustment'>>();
  /** A place of the map that was clicked. */
  readonly placed = output<readonly [number, number]>();
  private readonly store = inject(JobStore);

  protected readonly facts = computed(() => this.product().facts);
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly mapParts = [
    { name: 'before', title: 'before' },
    { name: 'elevation', title: 'after' },
  ] as const;

  protected readonly verdict = computed(() => {
    const { before, after, expected, limits } = this.facts();
    const of = (value: number): string => `${formatNumber(value, 3)} ${this.unit()}`;
    const holds = after.all.rmsd <= limits.between;
    return {
      isGood: holds,
      text: `RMSDz between strips ${of(before.all.rmsd)} before, ${of(after.all.rmsd)} after; ranging noise alone leaves ${of(expected)}. The limit of ${of(limits.between)} ${holds ? 'holds' : 'does not hold'}.`,
    };
  });

  protected readonly corrections = computed(() => {
    const { unknowns } = this.facts();
    return unknowns.slice(0, MOST_LISTED).map(({ label, unit, value, standardDeviation, isHeld }) => {
      const decimals = unit === '°' ? 4 : unit === 'ppm' ? 0 : 3;
      const suffix = unit === '°' ? '°' : ` ${unit}`;
      return {
        label,
        isHeld,
        value: isHeld ? 'not told by this flight' : `${value > 0 ? '+' : ''}${formatNumber(value, decimals)}${suffix}`,
        deviation: isHeld ? '' : formatNumber(standardDeviation, decimals),
      };
    });
  });

  protected readonly control = computed(() => {
    const { control } = this.facts();
    const rms = (values: readonly number[]): string =>
      `${formatNumber(Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length), 3)} ${this.unit()}`;
    const told = [
      { name: 'control used', list: control.filter(({ isKeptOut }) => !isKeptOut) },
      { name: 'points kept out', list: control.filter(({ isKeptOut }) => isKeptOut) },
    ].flatMap(({ name, list }) =>
      list.length === 0
        ? []
        : [
            `RMSEz at ${name} (${formatCount(list.length)}): ${rms(list.map(({ before }) => before))} before, ${rms(list.map(({ after }) => after))} after.`,
          ],
    );
    return told.join(' ');
  });

  private readonly cloud = computed(() => this.store.clouds().find(({ id }) => id === this.facts().cloudId));
  protected readonly canApply = computed(() => this.cloud()?.positions.shown === this.facts().positions);
  protected readonly appliedText = computed(() => {
    const cloud = this.cloud();
    if (!cloud) return 'Its cloud is not in the job any more.';
    const shown = cloud.positions.sets.find(({ id }) => id === cloud.positions.shown);
    return `${cloud.name} is shown ${shown ? `as “${shown.name}”` : 'as it came'} now. Undo goes back; “Positions” shows either.`;
  });

  protected readonly reportUrl = computed(() =>
    urlOf('exportProduct', {
      params: { jobId: this.store.jobId(), productId: this.product().id },
      query: { format: 'pdf' },
    }),
  );

  protected apply(): void {
    this.store.start('apply-adjustment', { adjustment: this.product().id }, ({ problem }) =>
      this.store.say(problem.detail),
    );
  }
}
