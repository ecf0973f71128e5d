import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule } from '@angular/material/dialog';
import type { ProfileResource } from '@pampero/contract';
import { ProfileChartComponent } from './profile-chart.component';

export interface ProfileDialogData {
  readonly profile: ProfileResource;
  readonly name: string;
  readonly unit: string;
}

/** A profile over the width of the screen. */
@Component({
  selector: 'pam-profile-dialog',
  imports: [MatButtonModule, MatDialogModule, ProfileChartComponent],
  template: `
    <h2 mat-dialog-title>{{ data.name }}</h2>
    <mat-dialog-content>
      <pam-profile-chart class="large" [profile]="data.profile" [unit]="data.unit" />
    </mat-dialog-content>
    <mat-dialog-actions align="end"><button mat-button mat-dialog-close>Close</button></mat-dialog-actions>
  `,
  styles: `
    .large {
      height: min(56vh, 480px);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ProfileDialogComponent {
  protected readonly data = inject<ProfileDialogData>(MAT_DIALOG_DATA);
}
