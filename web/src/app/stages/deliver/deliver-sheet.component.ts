import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { describeProduct, formatsOf, PRODUCT_KINDS, type Cloud } from '@pampero/contract';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { urlOf } from '../../api/api-client';
import { StaleNoticeComponent } from '../../sheets/stale-notice.component';
import { JobStore } from '../../state/job-store';
import { ExportPointsDialogComponent, type ExportPointsData } from './export-points-dialog.component';

interface Export {
  readonly id: string;
  readonly what: string;
  readonly detail: string;
  readonly formats: readonly { readonly name: string; readonly url: string; readonly testId: string }[];
  readonly staleBecause: string | undefined;
  /** Set where more can be chosen than the format. */
  readonly cloud?: Cloud;
}

/** Deliver: what leaves the job, and in which form. */
@Component({
  selector: 'pam-deliver-sheet',
  imports: [MatButtonModule, MatIconModule, StaleNoticeComponent],
  template: `
    <pam-stale-notice />
    @for (row of exports(); track row.id) {
      <div class="export">
        <span
          >{{ row.what }}<small>{{ row.detail }}</small>
          @if (row.staleBecause; as because) {
            <small class="stale">Stale. {{ because }}</small>
          }
        </span>
        <span class="act">
          @for (format of row.formats; track format.name) {
            <a mat-stroked-button [href]="format.url" download [attr.data-testid]="format.testId"
              ><mat-icon svgIcon="download" />{{ format.name }}</a
            >
          }
          @if (row.cloud; as cloud) {
            <button mat-stroked-button (click)="choose(cloud)" data-testid="export-choose">
              More formats and options …
            </button>
          }
        </span>
      </div>
    } @empty {
      <p class="soft">Nothing to export yet. Import a cloud in Intake.</p>
    }
    @if (lines(); as lines) {
      <div class="export">
        <span
          >Lines<small>{{ lines.detail }}</small></span
        >
        <span class="act">
          @for (format of lines.formats; track format.name) {
            <a mat-stroked-button [href]="format.url" download [attr.data-testid]="format.testId"
              ><mat-icon svgIcon="download" />{{ format.name }}</a
            >
          }
        </span>
      </div>
      <details class="by-code">
        <summary data-testid="lines-by-code">Lines code by code</summary>
        @for (row of lines.byCode; track row.id) {
          <div class="export">
            <span
              >{{ row.what }}<small>{{ row.detail }}</small></span
            >
            <span class="act">
              @for (format of row.formats; track format.name) {
                <a mat-stroked-button [href]="format.url" download [attr.data-testid]="format.testId"
                  ><mat-icon svgIcon="download" />{{ format.name }}</a
                >
              }
            </span>
          </div>
        }
      </details>
    }
    <h3>The whole job</h3>
    <div class="export">
      <span
        >One file with everything<small
          >Clouds, classes, surfaces, contours and the field book. Restore it on the Jobs page.</small
        ></span
      >
      <span class="act"
        ><a mat-stroked-button [href]="jobUrl()" download data-testid="download-job"
          ><mat-icon svgIcon="download" />Job</a
        ></span
      >
    </div>
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DeliverSheetComponent {
  protected readonly store = inject(JobStore);
  private readonly dialog = inject(MatDialog);

  protected readonly jobUrl = computed(() => urlOf('downloadJob', { params: { jobId: this.store.jobId() } }));
  private readonly products = computed<Export[]>(() => {
    const jobId = this.store.jobId();
    return PRODUCT_KINDS.filter(({ id }) => id !== 'lines').flatMap(({ id: kind }) =>
      this.store.of(kind).map((product) => ({
        id: `${kind}-${product.id}`,
        what: product.name,
        detail: describeProduct(product, this.store.unit()),
        formats: formatsOf(product).map(({ id: format, label }) => ({
          name: label,
          url: urlOf('exportProduct', { params: { jobId, productId: product.id }, query: { format } }),
          testId: `export-${kind}-${format}`,
        })),
        staleBecause: product.staleBecause,
      })),
    );
  });
  /** All lines in one file; by code as well, folded away. */
  protected readonly lines = computed(() => {
    const jobId = this.store.jobId();
    const sets = this.store.lines().filter(({ facts }) => facts.lines > 0);
    const count = sets.reduce((sum, { facts }) => sum + facts.lines, 0);
    const formats = formatsOf({ kind: 'lines' });
    return (
      sets.length > 0 && {
        detail: `${formatCounted(count, 'line')} of ${formatCounted(sets.length, 'code')}, each code on its layer`,
        formats: formats.map(({ id: format, label }) => ({
          name: label,
          url: urlOf('exportLines', { params: { jobId }, query: { format } }),
          testId: `export-all-lines-${format}`,
        })),
        byCode: sets.map((product) => ({
          id: product.id,
          what: product.name,
          detail: describeProduct(product, this.store.unit()),
          formats: formats.map(({ id: format, label }) => ({
            name: label,
            url: urlOf('exportProduct', { params: { jobId, productId: product.id }, query: { format } }),
            testId: `export-lines-${format}`,
          })),
        })),
      }
    );
  });
  protected readonly exports = computed<Export[]>(() => [
    ...this.store.clouds().map((cloud) => ({
      id: `cloud-${cloud.id}`,
      what: cloud.name,
      detail: `Cloud, ${formatCount(cloud.pointCount)} points with their current classes`,
      formats: (['las', 'laz'] as const).map((format) => ({
        name: format === 'las' ? 'LAS 1.4' : 'LAZ',
        url: urlOf('exportPoints', { params: { jobId: this.store.jobId(), cloudId: cloud.id }, query: { format } }),
        testId: `export-${format}`,
      })),
      staleBecause: undefined,
      cloud,
    })),
    ...this.products(),
  ]);

  protected choose(cloud: Cloud): void {
    this.dialog.open<ExportPointsDialogComponent, ExportPointsData>(ExportPointsDialogComponent, {
      width: '720px',
      maxWidth: '94vw',
      data: { jobId: this.store.jobId(), unit: this.store.unit(), cloud },
    });
  }
}
