import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import {
  formatsOf,
  itemsFor,
  kindById,
  NAME_PARTS,
  POINT_FILE_FORMATS,
  RECIPIENTS,
  reportOptionsSchema,
  type HandOverItem,
  type Recipient,
} from '@pampero/contract';
import { formatCounted } from '@pampero/core/wording';
import { ApiClient } from '../../api/api-client';
import { saveBytes } from '../../shared/save-bytes';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';
import { ReportDraft } from './report-draft';
import { toggled } from '../../shared/toggled';

const NAMES: Readonly<Record<Recipient, string>> = {
  cad: 'a drawing office (CAD)',
  gis: 'a map office (GIS)',
  client: 'a client',
};

interface Row {
  readonly key: string;
  readonly name: string;
  readonly detail: string;
  readonly staleBecause: string | undefined;
  readonly forms: readonly { readonly item: HandOverItem; readonly key: string; readonly label: string }[];
}

/** A package to hand over: chosen files with a README, metadata and sums, in one zip. */
@Component({
  selector: 'pam-hand-over-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule, MatIconModule],
  template: `
    <h2 mat-dialog-title>Hand over</h2>
    <mat-dialog-content>
      <div class="chips" role="group" aria-label="Choose what suits">
        <span>Choose what suits</span>
        @for (who of recipients; track who) {
          <button mat-stroked-button (click)="choose(who)" [attr.data-testid]="'suit-' + who">{{ names[who] }}</button>
        }
        @if (hasOutputs()) {
          <button mat-stroked-button (click)="chooseOutputs()">what the run sheet made</button>
        }
        <button mat-button (click)="chosen.set(none)">nothing</button>
      </div>
      @for (row of rows(); track row.key) {
        <div class="place">
          <span class="label"
            >{{ row.name }}<small>{{ row.detail }}</small>
            @if (row.staleBecause; as because) {
              <small class="stale">Stale. {{ because }}</small>
            }
          </span>
          <span class="forms">
            @for (form of row.forms; track form.key) {
              <label
                ><input
                  type="checkbox"
                  [checked]="chosen().has(form.key)"
                  (change)="toggle(form.key)"
                  [attr.data-testid]="'hand-over-' + form.key"
                />{{ form.label }}</label
              >
            }
          </span>
        </div>
      } @empty {
        <p class="soft">The job holds nothing to hand over yet.</p>
      }
      <div class="place">
        <span class="label"
          >Names of the files<small>{{ parts }}</small></span
        >
        <input [ngModel]="pattern()" (ngModelChange)="pattern.set($event)" maxlength="120" aria-label="Name pattern" />
      </div>
      <div class="place">
        <span class="label">A few words<small>Stand at the head of the README.</small></span>
        <textarea
          rows="2"
          [ngModel]="note()"
          (ngModelChange)="note.set($event)"
          maxlength="4000"
          aria-label="Words"
        ></textarea>
      </div>
      @if (fault(); as text) {
        <p class="fault" role="alert">{{ text }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <span class="soft count">{{ count() }}, README, metadata and SHA-256 sums</span>
      <button mat-button mat-dialog-close>Cancel</button>
      <button
        mat-flat-button
        (click)="download()"
        [disabled]="chosen().size === 0 || isBusy()"
        data-testid="hand-over-go"
      >
        <mat-icon svgIcon="download" />{{ isBusy() ? 'Packing …' : 'Download zip' }}
      </button>
    </mat-dialog-actions>
  `,
  styleUrls: ['./dialogs.scss', './hand-over-dialog.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HandOverDialogComponent {
  private readonly job = inject(JobStore);
  protected readonly sheets = inject(RunSheetStore);
  private readonly report = inject(ReportDraft);
  private readonly api = inject(ApiClient);
  private readonly dialog = inject(MatDialogRef);

  protected readonly recipients = RECIPIENTS;
  protected readonly names = NAMES;
  protected readonly parts = NAME_PARTS.map((part) => `{${part}}`).join(' ');
  protected readonly none: ReadonlySet<string> = new Set();
  protected readonly pattern = signal('{job} - {name}');
  protected readonly note = signal('');
  protected readonly fault = signal('');
  protected readonly isBusy = signal(false);
  protected readonly chosen = signal<ReadonlySet<string>>(new Set());

  protected readonly rows = computed<Row[]>(() => [
    ...this.job.products().map((product) => ({
      key: `product-${product.id}`,
      name: product.name,
      detail: kindById(product.kind)?.name.one ?? product.kind,
      staleBecause: product.staleBecause,
      forms: formatsOf(product).map(({ id: format, label }) => {
        const item = { kind: 'product', id: product.id, format } as const;
        return { item, key: keyOf(item), label };
      }),
    })),
    {
      key: 'report',
      name: 'Report',
      detail: 'As it was last put together',
      staleBecause: undefined,
      forms: (['pdf', 'html'] as const).map((format) => ({
        item: { kind: 'report', report: reportOptionsSchema.parse(this.report.options(format)) } as const,
        key: `report-${format}`,
        label: format.toUpperCase(),
      })),
    },
    ...itemsFor('client', this.job.products(), this.job.clouds()).flatMap((item) =>
      item.kind === 'view'
        ? [
            {
              key: 'view',
              name: 'Page for the client',
              detail: 'To look at, turn and measure',
              staleBecause: undefined,
              forms: [{ item, key: keyOf(item), label: 'one HTML file' }],
            },
          ]
        : [],
    ),
    ...this.job.clouds().map((cloud) => ({
      key: `cloud-${cloud.id}`,
      name: cloud.name,
      detail: 'Point cloud',
      staleBecause: undefined,
      forms: POINT_FILE_FORMATS.map((format) => {
        const item = { kind: 'cloud', id: cloud.id, format } as const;
        return { item, key: keyOf(item), label: format.toUpperCase() };
      }),
    })),
  ]);
  protected readonly hasOutputs = computed(() => (this.sheets.current()?.outputs.length ?? 0) > 0);
  protected readonly count = computed(() => formatCounted(this.chosen().size, 'file'));

  constructor() {
    this.choose('cad');
  }

  protected choose(who: Recipient): void {
    this.chosen.set(new Set(itemsFor(who, this.job.products(), this.job.clouds()).map(keyOf)));
  }

  protected chooseOutputs(): void {
    const outputs = this.sheets.current()?.outputs ?? [];
    this.chosen.set(new Set(outputs.map(({ kind, id, format }) => keyOf({ kind, id, format } as HandOverItem))));
  }

  protected toggle(key: string): void {
    this.chosen.update((before) => toggled(before, key));
  }

  protected download(): void {
    const items = this.rows().flatMap(({ forms }) =>
      forms.filter(({ key }) => this.chosen().has(key)).map(({ item }) => item),
    );
    const jobId = this.job.jobId();
    this.isBusy.set(true);
    this.fault.set('');
    const body = { items, pattern: this.pattern(), note: this.note() };
    this.api.file('handOver', { params: { jobId }, body }).subscribe({
      next: (zip) => {
        saveBytes(zip, `${this.job.job()?.name ?? 'job'}.zip`);
        this.dialog.close();
      },
      error: (error: unknown) => this.failed(error),
    });
  }

  private failed(error: unknown): void {
    this.isBusy.set(false);
    this.fault.set(error instanceof Error ? error.message : String(error));
  }
}

function keyOf(item: HandOverItem): string {
  if (item.kind === 'report') return `report-${item.report.format}`;
  return item.kind === 'view' ? 'view' : `${item.kind}-${item.id}-${item.format}`;
}
