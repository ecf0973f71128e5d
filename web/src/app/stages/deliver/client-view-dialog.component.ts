import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { ClientViewOptionsInput } from '@pampero/contract';
import { ApiClient } from '../../api/api-client';
import { saveBytes } from '../../shared/save-bytes';
import { JobStore } from '../../state/job-store';

/** What a client without the trade opens: one file for any browser, or a link to the same. */
@Component({
  selector: 'pam-client-view-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule, MatIconModule],
  template: `
    <h2 mat-dialog-title>For the client</h2>
    <mat-dialog-content>
      <p class="soft">
        The land to look at, turn and measure, in one file that any browser opens without a network; or by a link.
      </p>
      <div class="place">
        <span class="label">Title</span>
        <input [ngModel]="title()" (ngModelChange)="title.set($event)" maxlength="120" data-testid="view-title" />
      </div>
      <div class="place">
        <span class="label">A few words<small>What is seen, and what it is for.</small></span>
        <textarea rows="2" [ngModel]="words()" (ngModelChange)="words.set($event)" maxlength="2000"></textarea>
      </div>
      <div class="place">
        <span class="label">Surface</span>
        <select [ngModel]="surfaceId()" (ngModelChange)="surfaceId.set($event)">
          @for (surface of job.surfaces(); track surface.id) {
            <option [ngValue]="surface.id">{{ surface.name }}{{ surface.isStale ? ', stale' : '' }}</option>
          }
        </select>
      </div>
      <div class="place">
        <span class="label">Picture over it</span>
        <select [ngModel]="pictureId()" (ngModelChange)="pictureId.set($event)">
          <option [ngValue]="undefined">none: coloured by height</option>
          @for (picture of pictures(); track picture.id) {
            <option [ngValue]="picture.id">{{ picture.name }}</option>
          }
        </select>
      </div>
      <div class="place">
        <span class="label">Contours</span>
        <select [ngModel]="contoursId()" (ngModelChange)="contoursId.set($event)">
          <option [ngValue]="undefined">none</option>
          @for (set of job.contours(); track set.id) {
            <option [ngValue]="set.id">{{ set.name }}{{ set.isStale ? ', stale' : '' }}</option>
          }
        </select>
      </div>
      <div class="place">
        <span class="label">And</span>
        <span>
          <label><input type="checkbox" [(ngModel)]="withPoints" />measured points, as many as fit</label>
          <label><input type="checkbox" [(ngModel)]="withLines" />lines of the job</label>
          <label><input type="checkbox" [(ngModel)]="withPlaces" />notes pinned in the job, as named places</label>
        </span>
      </div>
      <div class="place">
        <span class="label">Size at most<small>Small enough for a mail is 10 MB.</small></span>
        <span
          ><input
            class="short"
            type="number"
            min="1"
            max="200"
            [ngModel]="megabytes()"
            (ngModelChange)="megabytes.set($event)"
          />
          MB</span
        >
      </div>
      <fieldset>
        <legend>If shared by a link</legend>
        <label
          >It ends after
          <input class="short" type="number" min="1" max="366" [ngModel]="days()" (ngModelChange)="days.set($event)" />
          days</label
        >
        <label
          >Password, if wanted
          <input
            type="text"
            autocomplete="off"
            [ngModel]="password()"
            (ngModelChange)="password.set($event)"
            data-testid="share-password"
        /></label>
        <small
          >Whoever has the link sees this page and nothing else of the job. It reaches as far as this server
          does.</small
        >
      </fieldset>
      @if (fault(); as text) {
        <p class="fault" role="alert">{{ text }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Cancel</button>
      <button mat-stroked-button (click)="share()" [disabled]="isBusy()" data-testid="view-share">
        Share by a link
      </button>
      <button mat-flat-button (click)="download()" [disabled]="isBusy()" data-testid="view-download">
        <mat-icon svgIcon="download" />{{ isBusy() ? 'Putting together …' : 'Download the file' }}
      </button>
    </mat-dialog-actions>
  `,
  styleUrl: './dialogs.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ClientViewDialogComponent {
  protected readonly job = inject(JobStore);
  private readonly api = inject(ApiClient);
  private readonly dialog = inject<MatDialogRef<ClientViewDialogComponent, boolean>>(MatDialogRef);

  protected readonly title = signal(this.job.job()?.name ?? '');
  protected readonly words = signal('');
  protected readonly surfaceId = signal(this.job.ground()?.id);
  protected readonly pictures = computed(() => this.job.of('picture'));
  protected readonly pictureId = signal(this.job.newest('picture')?.id);
  protected readonly contoursId = signal(this.job.newest('contours')?.id);
  protected readonly megabytes = signal(20);
  protected readonly days = signal(30);
  protected readonly password = signal('');
  protected withPoints = true;
  protected withLines = true;
  protected withPlaces = true;
  protected readonly fault = signal('');
  protected readonly isBusy = signal(false);

  private options(): ClientViewOptionsInput {
    const [title, pictureId, contoursId] = [this.title().trim(), this.pictureId(), this.contoursId()];
    return {
      surfaceId: this.surfaceId()!,
      words: this.words(),
      megabytes: Number(this.megabytes()),
      clouds: this.withPoints ? this.job.clouds().map(({ id }) => id) : [],
      withLines: this.withLines,
      withPlaces: this.withPlaces,
      ...(title && { title }),
      ...(pictureId !== undefined && { pictureId }),
      ...(contoursId !== undefined && { contoursId }),
    };
  }

  protected download(): void {
    this.begin();
    const body = this.options();
    this.api.file('writeClientView', { params: { jobId: this.job.jobId() }, body }).subscribe({
      next: (page) => {
        saveBytes(page, `${body.title ?? 'survey'}.html`);
        this.dialog.close(false);
      },
      error: (error: unknown) => this.failed(error),
    });
  }

  protected share(): void {
    this.begin();
    const password = this.password().trim();
    const body = { view: this.options(), days: Number(this.days()), ...(password && { password }) };
    this.api.call('share', { params: { jobId: this.job.jobId() }, body }).subscribe({
      next: () => this.dialog.close(true),
      error: (error: unknown) => this.failed(error),
    });
  }

  private begin(): void {
    this.isBusy.set(true);
    this.fault.set('');
  }

  private failed(error: unknown): void {
    this.isBusy.set(false);
    this.fault.set(error instanceof Error ? error.message : String(error));
  }
}
