import { ChangeDetectionStrategy, Component, computed, inject, Injector } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import {
  describeProduct,
  drawPicture,
  drawPlan,
  formatsOf,
  PRODUCT_KINDS,
  sendToCad,
  type Cloud,
  type Product,
  type ProductKindId,
  type ProductOf,
} from '@pampero/contract';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { urlOf } from '../../api/api-client';
import { openHoldings } from '../../sheets/holdings-dialog.component';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { StaleNoticeComponent } from '../../sheets/stale-notice.component';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';
import { ClientViewComponent } from './client-view.component';
import { HandOverDialogComponent } from './hand-over-dialog.component';
import { ReportDialogComponent } from './report-dialog.component';
import { RunSheetsComponent } from './run-sheets.component';
import { ExportRowComponent, type Export } from './export-row.component';
import { ExportPointsDialogComponent, type ExportPointsData } from './export-points-dialog.component';

/** A cloud can leave in more ways than its formats. */
interface CloudExport extends Export {
  readonly cloud?: Cloud;
}

/** Deliver: what leaves the job, and in which form. */
@Component({
  selector: 'pam-deliver-sheet',
  imports: [
    ClientViewComponent,
    ExportRowComponent,
    MatButtonModule,
    MatIconModule,
    OperationFormComponent,
    RunSheetsComponent,
    SheetPartComponent,
    StaleNoticeComponent,
  ],
  template: `
    <pam-stale-notice />
    <pam-sheet-part heading="Run sheets" name="run-sheets" [open]="sheets.current() !== undefined" [aside]="runAside()">
      <pam-run-sheets />
    </pam-sheet-part>
    <pam-sheet-part heading="Hand over" name="hand-over" [open]="true">
      <p class="soft">Chosen files in one zip, with a README, metadata and sums.</p>
      <div class="act">
        <button mat-flat-button (click)="handOver()" [disabled]="isEmpty()" data-testid="hand-over">
          Hand over a package …
        </button>
      </div>
    </pam-sheet-part>
    <pam-sheet-part heading="Report" name="report" [open]="true">
      <p class="soft">What came in, what was done, how accurate it is and what is not certain.</p>
      <div class="act">
        <button mat-flat-button (click)="report()" data-testid="report">Write a report …</button>
      </div>
    </pam-sheet-part>
    <pam-sheet-part heading="Plan to scale" name="plan">
      <p class="soft">
        Contours, lines and points on sheets with frame, grid, legend and title block. The PDF opens at its place in
        programs that read maps.
      </p>
      @for (row of plans(); track row.id) {
        <pam-export-row [row]="row" />
      }
      <pam-operation-form [operation]="drawPlan" [blocked]="nothingToDraw()" />
    </pam-sheet-part>
    <pam-sheet-part heading="Picture of the cloud" name="picture">
      <p class="soft">{{ drawPicture.does }}</p>
      <pam-operation-form
        [operation]="drawPicture"
        [blocked]="store.clouds().length > 0 ? '' : 'Import a cloud in Intake first.'"
      />
    </pam-sheet-part>
    <pam-sheet-part heading="Send to CAD" name="cad">
      <p class="soft">{{ sendToCad.does }}</p>
      <pam-operation-form [operation]="sendToCad" [blocked]="nothingToSend()" />
    </pam-sheet-part>
    <pam-sheet-part heading="For the client" name="client" [open]="true">
      <pam-client-view />
    </pam-sheet-part>
    <pam-sheet-part heading="File by file" name="files" [open]="true">
      @for (row of exports(); track row.id) {
        <pam-export-row [row]="row">
          @if (row.cloud; as cloud) {
            <button mat-stroked-button (click)="choose(cloud)" data-testid="export-choose">
              More formats and options …
            </button>
          }
        </pam-export-row>
      } @empty {
        <p class="soft">Nothing to export yet. Import a cloud in Intake.</p>
      }
      @if (lines(); as lines) {
        <pam-export-row [row]="lines.together" />
        <details class="by-code">
          <summary data-testid="lines-by-code">Lines code by code</summary>
          @for (row of lines.byCode; track row.id) {
            <pam-export-row [row]="row" />
          }
        </details>
      }
    </pam-sheet-part>
    <h3>The whole job</h3>
    <div class="export">
      <span
        >What it holds<small
          >Size of each cloud and product. Remove what is not needed, give back its space.</small
        ></span
      >
      <span class="act"
        ><button mat-stroked-button (click)="holdings()" data-testid="deliver-holdings">Tidy up …</button></span
      >
    </div>
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
  protected readonly sheets = inject(RunSheetStore);
  private readonly dialog = inject(MatDialog);
  /** Dialogs read the same job as this sheet. */
  private readonly injector = inject(Injector);

  protected readonly drawPicture = drawPicture;
  protected readonly sendToCad = sendToCad;
  protected readonly nothingToSend = computed(() =>
    this.store.products().some(({ kind }) => kind === 'surface' || kind === 'contours' || kind === 'lines')
      ? ''
      : 'There is nothing to send yet: build a surface, draw contours or lines.',
  );
  protected readonly drawPlan = drawPlan;
  protected readonly nothingToDraw = computed(() =>
    ['contours', 'lines', 'spots', 'picture'].some((kind) => this.store.of(kind as ProductKindId).length > 0)
      ? ''
      : 'Draw contours in Terrain or lines in Lines first.',
  );
  protected readonly isEmpty = computed(() => this.store.products().length + this.store.clouds().length === 0);
  protected readonly runAside = computed(() => {
    const run = this.sheets.current();
    if (!run) return '';
    return run.state === 'running'
      ? `${Math.round(run.progress * 100)} %`
      : run.state === 'waiting'
        ? 'waits for you'
        : run.state;
  });

  protected readonly jobUrl = computed(() => urlOf('downloadJob', { params: { jobId: this.store.jobId() } }));
  private readonly products = computed(() =>
    PRODUCT_KINDS.filter(({ id }) => id !== 'lines' && id !== 'plan').flatMap(({ id }) =>
      this.store.of(id).map((product) => this.exportOf(product)),
    ),
  );
  /** Beside the form that draws them. */
  protected readonly plans = computed(() => this.store.of('plan').map((product) => this.exportOf(product)));
  /** All lines in one file; by code as well, folded away. */
  protected readonly lines = computed(() => {
    const jobId = this.store.jobId();
    const sets = this.store.lines().filter(({ facts }) => facts.lines > 0);
    if (sets.length === 0) return undefined;
    const count = sets.reduce((sum, { facts }) => sum + facts.lines, 0);
    const together: Export = {
      id: 'lines',
      what: 'Lines',
      detail: `${formatCounted(count, 'line')} of ${formatCounted(sets.length, 'code')}, each code on its layer`,
      formats: formatsOf({ kind: 'lines' }).map(({ id: format, label }) => ({
        name: label,
        url: urlOf('exportLines', { params: { jobId }, query: { format } }),
        testId: `export-all-lines-${format}`,
      })),
      staleBecause: undefined,
    };
    return { together, byCode: sets.map((product) => this.exportOf(product)) };
  });
  protected readonly exports = computed<CloudExport[]>(() => [
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

  private exportOf(product: ProductOf<Product['kind']>): Export {
    const params = { jobId: this.store.jobId(), productId: product.id };
    return {
      id: `${product.kind}-${product.id}`,
      what: product.name,
      detail: describeProduct(product, this.store.unit()),
      formats: formatsOf(product).map(({ id: format, label }) => ({
        name: label,
        url: urlOf('exportProduct', { params, query: { format } }),
        testId: `export-${product.kind}-${format}`,
      })),
      staleBecause: product.staleBecause,
    };
  }

  protected report(): void {
    this.dialog.open(ReportDialogComponent, { width: '720px', maxWidth: '94vw', injector: this.injector });
  }

  protected holdings(): void {
    openHoldings(this.dialog, this.injector);
  }

  protected handOver(): void {
    this.dialog.open(HandOverDialogComponent, { width: '780px', maxWidth: '94vw', injector: this.injector });
  }

  protected choose(cloud: Cloud): void {
    this.dialog.open<ExportPointsDialogComponent, ExportPointsData>(ExportPointsDialogComponent, {
      width: '720px',
      maxWidth: '94vw',
      injector: this.injector,
      data: { jobId: this.store.jobId(), unit: this.store.unit(), cloud },
    });
  }
}
