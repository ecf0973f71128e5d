import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { REPORT_PART_NAMES, REPORT_PARTS, type ReportPart } from '@pampero/contract';
import { ApiClient } from '../../api/api-client';
import type { ViewId } from '../../drawing/view-id';
import { saveBytes } from '../../shared/save-bytes';
import { WordsEditorComponent } from '../../shared/words-editor.component';
import { JobStore } from '../../state/job-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { ViewCapture } from '../../viewer/view-capture';
import { ReportDraft } from './report-draft';
import { toggled } from '../../shared/toggled';

const VIEW_NAMES: Readonly<Record<ViewId, string>> = {
  plan: 'Plan',
  section: 'Section',
  after: 'Section below',
  model: 'Model',
};
const MOST_PICTURES = 12;

/** The report: its parts, the surveyor's words, and views as they are placed now. Figures come from the job. */
@Component({
  selector: 'pam-report-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule, MatIconModule, WordsEditorComponent],
  template: `
    <h2 mat-dialog-title>Report</h2>
    <mat-dialog-content>
      <p class="soft">Every figure is read from the job. You choose the parts and add your words.</p>
      <div class="place">
        <span class="label">Title</span>
        <input
          [ngModel]="draft.title()"
          (ngModelChange)="draft.title.set($event)"
          [placeholder]="job.job()?.name ?? ''"
          maxlength="120"
          data-testid="report-title"
        />
      </div>
      <div class="place">
        <span class="label">Signed by</span>
        <input
          [ngModel]="draft.surveyor()"
          (ngModelChange)="draft.surveyor.set($event)"
          maxlength="120"
          data-testid="report-surveyor"
        />
      </div>
      <div class="place">
        <span class="label">Your words<small>Headings and lists as they will stand in the report.</small></span>
        <pam-words-editor label="Your words" data-testid="report-words" [(words)]="draft.words" />
      </div>
      <div class="place">
        <span class="label">Logo</span>
        <span>
          <input #logo type="file" accept="image/png,image/jpeg" hidden (change)="pickLogo(logo)" />
          <button mat-stroked-button (click)="logo.click()">{{ draft.logo() ? 'Change …' : 'Choose …' }}</button>
          @if (draft.logo()) {
            <button mat-button (click)="draft.logo.set(undefined)">Leave it out</button>
          }
        </span>
      </div>
      <div class="place">
        <span class="label">Parts</span>
        <span class="parts">
          @for (part of parts; track part) {
            <label
              ><input
                type="checkbox"
                [checked]="draft.parts().has(part)"
                (change)="toggle(part)"
                [attr.data-testid]="'part-of-report-' + part"
              />{{ names[part] }}</label
            >
          }
        </span>
      </div>
      <div class="place">
        <span class="label"
          >Pictures of views<small
            >As they are placed now. Close this, move a view, and come back for the next.</small
          ></span
        >
        <span>
          @for (view of cameras.shown(); track view) {
            <button
              mat-stroked-button
              (click)="add(view)"
              [disabled]="draft.pictures().length >= most"
              [attr.data-testid]="'report-view-' + view"
            >
              Add {{ viewNames[view] }}
            </button>
          }
          @for (picture of draft.pictures(); track $index) {
            <div class="picture">
              <img [src]="'data:image/png;base64,' + picture.image" alt="" />
              <input
                [ngModel]="picture.caption"
                (ngModelChange)="caption($index, $event)"
                maxlength="200"
                [attr.aria-label]="'Caption of picture ' + ($index + 1)"
              />
              <button mat-icon-button (click)="drop($index)" aria-label="Remove the picture" title="Remove">
                <mat-icon svgIcon="bin" />
              </button>
            </div>
          }
        </span>
      </div>
      @if (fault(); as text) {
        <p class="fault" role="alert">{{ text }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Close</button>
      <button mat-stroked-button (click)="download('html')" [disabled]="isBusy()" data-testid="report-html">
        Download HTML
      </button>
      <button mat-flat-button (click)="download('pdf')" [disabled]="isBusy()" data-testid="report-pdf">
        <mat-icon svgIcon="download" />{{ isBusy() ? 'Writing …' : 'Download PDF' }}
      </button>
    </mat-dialog-actions>
  `,
  styleUrls: ['./dialogs.scss', './report-dialog.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ReportDialogComponent {
  protected readonly job = inject(JobStore);
  protected readonly draft = inject(ReportDraft);
  protected readonly cameras = inject(ViewCameras);
  private readonly views = inject(ViewCapture);
  private readonly api = inject(ApiClient);
  private readonly dialog = inject(MatDialogRef);

  protected readonly parts = REPORT_PARTS;
  protected readonly names = REPORT_PART_NAMES;
  protected readonly viewNames = VIEW_NAMES;
  protected readonly most = MOST_PICTURES;
  protected readonly isBusy = signal(false);
  protected readonly fault = signal('');

  protected toggle(part: ReportPart): void {
    this.draft.parts.update((before) => toggled(before, part));
  }

  protected add(view: ViewId): void {
    const image = this.views.capture(view);
    if (image === undefined) this.fault.set(`${VIEW_NAMES[view]} is not shown now.`);
    else this.draft.pictures.update((all) => [...all, { caption: VIEW_NAMES[view], image }]);
  }

  protected caption(at: number, words: string): void {
    this.draft.pictures.update((all) => all.map((each, k) => (k === at ? { ...each, caption: words } : each)));
  }

  protected drop(at: number): void {
    this.draft.pictures.update((all) => all.filter((_, k) => k !== at));
  }

  protected pickLogo(input: HTMLInputElement): void {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    const reader = new FileReader();
    reader.onload = () => this.draft.logo.set(String(reader.result).split(',')[1]);
    reader.readAsDataURL(file);
  }

  protected download(format: 'pdf' | 'html'): void {
    this.isBusy.set(true);
    this.fault.set('');
    const given = { params: { jobId: this.job.jobId() }, body: this.draft.options(format) };
    this.api.file('writeReport', given).subscribe({
      next: (file) => {
        this.isBusy.set(false);
        saveBytes(file, this.draft.fileName(format));
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
