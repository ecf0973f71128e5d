import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, viewChild } from '@angular/core';
import { FormControl, FormGroup, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import type { CrsEntry, NewJob } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { CrsFieldComponent } from '../shared/crs-field.component';

/** Name, coordinate system by code or words, unit. The unit follows the system; without one it is chosen. */
@Component({
  selector: 'pam-new-job-dialog',
  imports: [
    CrsFieldComponent,
    MatButtonModule,
    MatDialogModule,
    MatFormFieldModule,
    MatInputModule,
    MatSelectModule,
    ReactiveFormsModule,
  ],
  template: `
    <h2 mat-dialog-title>New job</h2>
    <form [formGroup]="form" (ngSubmit)="create()">
      <mat-dialog-content>
        <mat-form-field appearance="outline">
          <mat-label>Name</mat-label>
          <input matInput formControlName="name" data-testid="job-name" maxlength="120" cdkFocusInitial />
          @if (form.controls.name.hasError('required')) {
            <mat-error>Give the job a name.</mat-error>
          }
        </mat-form-field>
        <pam-crs-field [(chosen)]="crs" testId="job-crs" [hint]="hint()" #field />
        <details>
          <summary>Custom coordinate system</summary>
          <textarea
            formControlName="definition"
            rows="2"
            aria-label="PROJ string"
            placeholder="+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=GRS80 +units=m"
          ></textarea>
          <small>A PROJ string; with +towgs84= and seven parameters, files of other datums come in moved.</small>
        </details>
        <mat-form-field appearance="outline">
          <mat-label>Unit, across and up</mat-label>
          <mat-select formControlName="unit" data-testid="job-unit">
            @for (unit of units; track unit.id) {
              <mat-option [value]="unit.id">{{ unit.name }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
      </mat-dialog-content>
      <mat-dialog-actions align="end">
        <button mat-button type="button" mat-dialog-close>Cancel</button>
        <button mat-flat-button type="submit" data-testid="create-job">Create job</button>
      </mat-dialog-actions>
    </form>
  `,
  styles: `
    mat-form-field {
      width: 100%;
      margin-top: 6px;
    }
    details {
      margin-top: 8px;
    }
    summary {
      cursor: pointer;
      color: var(--accent);
    }
    textarea {
      width: 100%;
      border: 1px solid var(--rule-strong);
      border-radius: 4px;
      font: 400 12px var(--figures);
    }
    small {
      color: var(--ink-2);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NewJobDialogComponent {
  private readonly dialog = inject<MatDialogRef<NewJobDialogComponent, NewJob>>(MatDialogRef);

  protected readonly units = (Object.keys(lengthUnits) as LengthUnit[]).map((id) => ({
    id,
    name: lengthUnits[id].name,
  }));
  protected readonly form = new FormGroup({
    name: new FormControl('', { nonNullable: true, validators: [Validators.required, Validators.pattern(/\S/)] }),
    definition: new FormControl('', { nonNullable: true }),
    unit: new FormControl<LengthUnit>('metre', { nonNullable: true }),
  });

  protected readonly crs = signal<CrsEntry | undefined>(undefined);
  private readonly field = viewChild.required(CrsFieldComponent);
  protected readonly hint = computed(() => {
    const entry = this.crs();
    return entry ? `In ${lengthUnits[entry.unit].name}; the job’s unit follows it.` : 'Leave empty for a local system.';
  });

  constructor() {
    effect(() => {
      const entry = this.crs();
      const { unit } = this.form.controls;
      if (entry) {
        unit.setValue(entry.unit);
        unit.disable();
      } else unit.enable();
    });
  }

  protected create(): void {
    this.form.markAllAsTouched();
    if (this.form.controls.name.invalid || this.field().isUnknown()) return;
    const { name, definition, unit } = this.form.getRawValue();
    const entry = this.crs();
    this.dialog.close({
      name: name.trim(),
      unit,
      ...(entry ? { epsg: entry.epsg } : definition.trim() && { definition: definition.trim() }),
    });
  }
}
