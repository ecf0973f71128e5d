import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl, FormGroup, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatAutocompleteModule } from '@angular/material/autocomplete';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import type { CrsEntry, NewJob } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { catchError, debounceTime, of, switchMap } from 'rxjs';
import { ApiService } from '../api/api.service';

/** Name, coordinate system by code or words, unit. The unit follows the system; without one it is chosen. */
@Component({
  selector: 'pam-new-job-dialog',
  imports: [
    MatAutocompleteModule,
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
        <mat-form-field appearance="outline">
          <mat-label>Coordinate system</mat-label>
          <input
            matInput
            formControlName="crs"
            [matAutocomplete]="found"
            placeholder="EPSG code or words: 5347, Argentina 5"
            data-testid="job-crs"
          />
          <mat-autocomplete #found [displayWith]="title">
            @for (entry of entries(); track entry.epsg) {
              <mat-option [value]="entry"
                >{{ title(entry) }}<small>{{ entry.area }}</small></mat-option
              >
            }
          </mat-autocomplete>
          <mat-hint>{{ hint() }}</mat-hint>
          @if (form.controls.crs.hasError('unknown')) {
            <mat-error>Choose one of the list, or clear the field for a local system.</mat-error>
          }
        </mat-form-field>
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
        <button mat-flat-button type="submit" data-testid="create-job">Make the job</button>
      </mat-dialog-actions>
    </form>
  `,
  styles: `
    mat-form-field {
      width: 100%;
      margin-top: 6px;
    }
    small {
      display: block;
      color: var(--ink-2);
      font-size: 11.5px;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
      max-width: 440px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NewJobDialogComponent {
  private readonly api = inject(ApiService);
  private readonly dialog = inject<MatDialogRef<NewJobDialogComponent, NewJob>>(MatDialogRef);

  protected readonly units = (Object.keys(lengthUnits) as LengthUnit[]).map((id) => ({
    id,
    name: lengthUnits[id].name,
  }));
  protected readonly form = new FormGroup({
    name: new FormControl('', { nonNullable: true, validators: [Validators.required, Validators.pattern(/\S/)] }),
    crs: new FormControl<string | CrsEntry>('', {
      nonNullable: true,
      validators: ({ value }) => (typeof value === 'string' && value.trim() !== '' ? { unknown: true } : null),
    }),
    unit: new FormControl<LengthUnit>('metre', { nonNullable: true }),
  });

  private readonly typed = toSignal(this.form.controls.crs.valueChanges, { initialValue: '' as string | CrsEntry });
  protected readonly entries = toSignal(
    this.form.controls.crs.valueChanges.pipe(
      debounceTime(150),
      switchMap((value) =>
        typeof value === 'string' && value.trim().length > 1
          ? this.api.searchCrs(value).pipe(catchError(() => of([])))
          : of([]),
      ),
    ),
    { initialValue: [] as CrsEntry[] },
  );
  protected readonly hint = computed(() => {
    const value = this.typed();
    return typeof value === 'string'
      ? 'Leave empty for a local system.'
      : `In ${lengthUnits[value.unit].name}; the job’s unit follows it.`;
  });

  constructor() {
    this.form.controls.crs.valueChanges.subscribe((value) => {
      if (typeof value === 'string') {
        this.form.controls.unit.enable();
        return;
      }
      this.form.controls.unit.setValue(value.unit);
      this.form.controls.unit.disable();
    });
  }

  protected readonly title = (entry: CrsEntry | string): string =>
    typeof entry === 'string' ? entry : `EPSG:${entry.epsg} ${entry.name}`;

  protected create(): void {
    this.form.markAllAsTouched();
    if (this.form.controls.name.invalid || this.form.controls.crs.invalid) return;
    const { name, crs, unit } = this.form.getRawValue();
    this.dialog.close({ name: name.trim(), unit, ...(typeof crs !== 'string' && { epsg: crs.epsg }) });
  }
}
