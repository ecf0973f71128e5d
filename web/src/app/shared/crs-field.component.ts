import { ChangeDetectionStrategy, Component, computed, inject, input, model, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatAutocompleteModule } from '@angular/material/autocomplete';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import type { CrsEntry } from '@pampero/contract';
import { catchError, debounceTime, of, switchMap } from 'rxjs';
import { ApiClient } from '../api/api-client';

/** A coordinate system, found by code or words. */
@Component({
  selector: 'pam-crs-field',
  imports: [MatAutocompleteModule, MatFormFieldModule, MatInputModule],
  template: `
    <mat-form-field appearance="outline" subscriptSizing="dynamic">
      <mat-label>{{ label() }}</mat-label>
      <input
        #box
        matInput
        [value]="chosen() ? title(chosen()!) : ''"
        [matAutocomplete]="found"
        placeholder="EPSG code or words: 5347, Argentina 5"
        [attr.data-testid]="testId()"
        (input)="typed.set(box.value); chosen.set(undefined)"
      />
      <mat-autocomplete #found [displayWith]="title" (optionSelected)="choose($event.option.value)">
        @for (entry of entries(); track entry.epsg) {
          <mat-option [value]="entry"
            >{{ title(entry) }}<small>{{ entry.area }}</small></mat-option
          >
        }
      </mat-autocomplete>
      <mat-hint [class.wrong]="isUnknown()">{{
        isUnknown() ? 'Choose one from the list, or clear the field.' : hint()
      }}</mat-hint>
    </mat-form-field>
  `,
  styles: `
    :host {
      display: block;
      margin: 10px 0;
    }
    mat-form-field {
      width: 100%;
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
    .wrong {
      color: var(--error);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CrsFieldComponent {
  private readonly api = inject(ApiClient);

  readonly label = input('Coordinate system');
  readonly hint = input('');
  readonly testId = input('crs');
  readonly chosen = model<CrsEntry | undefined>();

  protected readonly typed = signal('');
  /** Something is typed that is not one of the list. */
  readonly isUnknown = computed(() => this.chosen() === undefined && this.typed().trim() !== '');
  protected readonly entries = toSignal(
    toObservable(this.typed).pipe(
      debounceTime(150),
      switchMap((text) =>
        text.trim().length > 1
          ? this.api.call('searchCrs', { query: { search: text, limit: 12 } }).pipe(catchError(() => of([])))
          : of([]),
      ),
    ),
    { initialValue: [] as CrsEntry[] },
  );

  protected readonly title = (entry: CrsEntry | string): string =>
    typeof entry === 'string' ? entry : `EPSG:${entry.epsg} ${entry.name}`;

  protected choose(entry: CrsEntry): void {
    this.chosen.set(entry);
    this.typed.set('');
  }
}
