import { ChangeDetectionStrategy, Component, inject, Injector } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import {
  RUN_SHEET_FORMAT,
  RUN_SHEET_VERSION,
  type KeptSheet,
  type RunSheet,
  type RunSheetInput,
} from '@pampero/contract';
import { formatCounted } from '@pampero/core/wording';
import { ApiError } from '../../api/api-client';
import { saveBytes } from '../../shared/save-bytes';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';
import { RunSheetDialogComponent } from './run-sheet-dialog.component';
import { SheetEditorDialogComponent, type SheetEditorData } from './sheet-editor-dialog.component';
import { SheetRunComponent } from './sheet-run.component';

/** Run sheets: those that are kept, and the run that is on its way. */
@Component({
  selector: 'pam-run-sheets',
  imports: [MatButtonModule, MatIconModule, SheetRunComponent],
  template: `
    <p class="soft">The same steps with the same settings, on this job or on new files.</p>
    @if (sheets.current(); as run) {
      <pam-sheet-run [run]="run" />
    }
    @for (kept of sheets.sheets(); track kept.id) {
      <div class="export wide">
        <span
          >{{ kept.sheet.name }}<small>{{ detail(kept) }}</small></span
        >
        <span class="act">
          <button mat-stroked-button (click)="run(kept)" [attr.data-testid]="'run-sheet-' + kept.id">Run …</button>
          <button mat-button (click)="edit(kept)" [attr.data-testid]="'edit-sheet-' + kept.id">
            {{ kept.isShipped ? 'Copy …' : 'Edit …' }}
          </button>
          <button mat-icon-button aria-label="Save as a file" title="Save as a file" (click)="save(kept)">
            <mat-icon svgIcon="download" />
          </button>
          @if (!kept.isShipped) {
            <button mat-icon-button aria-label="Remove the run sheet" title="Remove" (click)="sheets.remove(kept)">
              <mat-icon svgIcon="bin" />
            </button>
          }
        </span>
      </div>
    }
    @for (file of sheets.unreadable(); track file.fileName) {
      <p class="soft">{{ file.fileName }} cannot be read: {{ file.what }}</p>
    }
    <div class="act">
      <button mat-stroked-button (click)="add()" data-testid="new-sheet">New run sheet …</button>
      <input #file type="file" accept=".json" hidden (change)="open(file)" data-testid="sheet-file" />
      <button mat-button (click)="file.click()"><mat-icon svgIcon="upload" />Open a file …</button>
    </div>
    <p class="soft">To make one of steps already done, choose them in the field book.</p>
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RunSheetsComponent {
  protected readonly sheets = inject(RunSheetStore);
  private readonly job = inject(JobStore);
  private readonly dialog = inject(MatDialog);
  /** Dialogs read the same job as this sheet. */
  private readonly injector = inject(Injector);

  constructor() {
    this.sheets.load();
  }

  protected detail({ sheet, isShipped }: KeptSheet): string {
    const gates = sheet.steps.filter(({ kind }) => kind === 'gate').length;
    const steps = formatCounted(sheet.steps.length - gates, 'step');
    return `${steps}${gates > 0 ? `, ${formatCounted(gates, 'gate')}` : ''}${isShipped ? ', comes with Pampero' : ''}`;
  }

  protected run({ sheet }: KeptSheet): void {
    this.dialog.open<RunSheetDialogComponent, RunSheet>(RunSheetDialogComponent, {
      width: '640px',
      maxWidth: '94vw',
      injector: this.injector,
      data: sheet,
    });
  }

  protected edit({ id, isShipped, sheet }: KeptSheet): void {
    this.openEditor(isShipped ? { sheet: { ...sheet, name: `${sheet.name}, own` } } : { sheet, id });
  }

  protected add(): void {
    const head = { format: RUN_SHEET_FORMAT, version: RUN_SHEET_VERSION } as const;
    this.openEditor({ sheet: { ...head, name: 'New run sheet', notes: '', places: [], steps: [], outputs: [] } });
  }

  private openEditor(data: SheetEditorData): void {
    this.dialog.open<SheetEditorDialogComponent, SheetEditorData>(SheetEditorDialogComponent, {
      width: '860px',
      maxWidth: '94vw',
      injector: this.injector,
      data,
    });
  }

  protected save({ id, sheet }: KeptSheet): void {
    const json = new Blob([`${JSON.stringify(sheet, undefined, 2)}\n`], { type: 'application/json' });
    saveBytes(json, `${id}.json`);
  }

  /** A sheet from elsewhere is kept as it is, or refused with the field named. */
  protected async open(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    let sheet: RunSheetInput;
    try {
      sheet = JSON.parse(await file.text()) as RunSheetInput;
    } catch {
      this.job.say(`${file.name} is not JSON.`);
      return;
    }
    this.sheets.keep(sheet).subscribe({
      next: (kept) => this.job.say(`Kept: ${kept.sheet.name}`),
      error: (error: unknown) =>
        this.job.say(`${file.name}: ${error instanceof ApiError ? error.problem.detail : String(error)}`),
    });
  }
}
