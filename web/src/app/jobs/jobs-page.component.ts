import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Router, RouterLink } from '@angular/router';
import type { Job, NewJob, UnreadableJob } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { ApiClient, urlOf } from '../api/api-client';
import { formatBytes, formatCount, formatCounted } from '@pampero/core/wording';
import { NewJobDialogComponent } from './new-job-dialog.component';
import { RemoveJobDialogComponent } from './remove-job-dialog.component';

/** All jobs: open one, make one, restore one from a file. */
@Component({
  selector: 'pam-jobs-page',
  imports: [DatePipe, MatButtonModule, MatIconModule, MatMenuModule, MatTooltipModule, RouterLink],
  templateUrl: './jobs-page.component.html',
  styleUrl: './jobs-page.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class JobsPageComponent {
  private readonly api = inject(ApiClient);
  private readonly dialog = inject(MatDialog);
  private readonly snack = inject(MatSnackBar);
  private readonly router = inject(Router);

  private readonly jobs = signal<readonly Job[] | undefined>(undefined);
  protected readonly unreadable = signal<readonly UnreadableJob[]>([]);
  protected readonly problem = signal<string | undefined>(undefined);
  protected readonly rows = computed(() =>
    this.jobs()?.map((job) => ({
      ...job,
      system: job.crs.epsg === undefined ? (job.crs.name ?? '') : `EPSG:${job.crs.epsg}, ${lengthUnits[job.unit].name}`,
      points: job.pointCount === 0 ? 'no points yet' : `${formatCount(job.pointCount)} points`,
      clouds: formatCounted(job.cloudCount, 'cloud'),
      size: formatBytes(job.fileBytes),
      fileUrl: urlOf('downloadJob', { params: { jobId: job.id } }),
    })),
  );

  constructor() {
    this.reload();
  }

  protected create(): void {
    this.dialog
      .open<NewJobDialogComponent, undefined, NewJob>(NewJobDialogComponent, { width: '520px' })
      .afterClosed()
      .subscribe((given) => {
        if (!given) return;
        this.api.call('createJob', { body: given }).subscribe({
          next: (job) => void this.router.navigate(['/jobs', job.id, 'intake']),
          error: (error: unknown) => this.say(error),
        });
      });
  }

  protected restore(input: HTMLInputElement): void {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    this.api.call('restoreJob', { body: file }).subscribe({
      next: (job) => {
        this.snack.open(`${job.name} is restored.`, 'Close', { duration: 6000 });
        this.reload();
      },
      error: (error: unknown) => this.say(error),
    });
  }

  protected remove(job: Job): void {
    this.dialog
      .open<RemoveJobDialogComponent, Job, boolean>(RemoveJobDialogComponent, { data: job, width: '440px' })
      .afterClosed()
      .subscribe((isSure) => {
        if (isSure)
          this.api
            .call('removeJob', { params: { jobId: job.id } })
            .subscribe({ next: () => this.reload(), error: (error: unknown) => this.say(error) });
      });
  }

  protected moveAside({ fileName }: UnreadableJob): void {
    this.api.call('moveJobAside', { body: { fileName } }).subscribe({
      next: () => {
        this.snack.open(`${fileName} lies in the folder “aside” now.`, 'Close', { duration: 6000 });
        this.reload();
      },
      error: (error: unknown) => this.say(error),
    });
  }

  private reload(): void {
    this.api
      .call('listUnreadableJobs', {})
      .subscribe({ next: (files) => this.unreadable.set(files), error: () => undefined });
    this.api.call('listJobs', {}).subscribe({
      next: (jobs) => this.jobs.set(jobs),
      error: (error: unknown) => this.problem.set(error instanceof Error ? error.message : String(error)),
    });
  }

  private say(error: unknown): void {
    this.snack.open(error instanceof Error ? error.message : String(error), 'Close');
  }
}
