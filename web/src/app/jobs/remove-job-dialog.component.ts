import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule } from '@angular/material/dialog';
import type { Job } from '@pampero/contract';

@Component({
  selector: 'pam-remove-job-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>Remove this job?</h2>
    <mat-dialog-content
      >{{ job.name }} and its file, with all clouds, surfaces and history, go for good. Download it first if you may
      want it again.</mat-dialog-content
    >
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close cdkFocusInitial>Keep it</button>
      <button mat-flat-button [mat-dialog-close]="true">Remove permanently</button>
    </mat-dialog-actions>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RemoveJobDialogComponent {
  protected readonly job = inject<Job>(MAT_DIALOG_DATA);
}
