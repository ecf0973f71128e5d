import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { editCodes } from '@pampero/contract';
import { LINE_ROLE_NAMES, LINE_ROLES, LINE_STYLES, type FeatureCode } from '@pampero/core/lines';
import { formatCount } from '@pampero/core/wording';
import type { JobStore } from '../../state/job-store';

interface Row extends FeatureCode {
  readonly id: number;
  readonly count: number;
}

const OPACITIES: readonly number[] = [1, 0.75, 0.5, 0.25];

/** The code list as a table. */
@Component({
  selector: 'pam-code-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule, MatIconModule],
  template: `
    <h2 mat-dialog-title>Code list</h2>
    <mat-dialog-content>
      <table>
        <thead>
          <tr>
            <th></th>
            <th>Code</th>
            <th>Meaning</th>
            <th>Use as</th>
            <th>Style</th>
            <th>Opacity</th>
            <th>Layer</th>
            <th class="num">Lines</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.id) {
            <tr>
              <td>
                <input
                  type="color"
                  [attr.aria-label]="'Colour of ' + row.code"
                  [ngModel]="row.colour"
                  (ngModelChange)="change(row, { colour: $event })"
                />
              </td>
              <td>
                <input
                  class="code num"
                  maxlength="40"
                  [attr.aria-label]="'Code ' + row.code"
                  [disabled]="row.count > 0"
                  [attr.title]="row.count > 0 ? 'Lines have this code. Give them another one first.' : null"
                  [ngModel]="row.code"
                  (ngModelChange)="change(row, { code: $event })"
                />
              </td>
              <td>
                <input
                  maxlength="120"
                  [attr.aria-label]="'Meaning of ' + row.code"
                  [attr.data-testid]="'meaning-' + row.code"
                  [ngModel]="row.meaning"
                  (ngModelChange)="change(row, { meaning: $event })"
                />
              </td>
              <td>
                <select
                  [attr.aria-label]="'Use of ' + row.code"
                  [attr.data-testid]="'use-' + row.code"
                  [ngModel]="row.role"
                  (ngModelChange)="change(row, { role: $event })"
                >
                  @for (role of roles; track role) {
                    <option [value]="role">{{ roleNames[role] }}</option>
                  }
                </select>
              </td>
              <td>
                <select
                  [attr.aria-label]="'Style of ' + row.code"
                  [ngModel]="row.style"
                  (ngModelChange)="change(row, { style: $event })"
                >
                  @for (style of styles; track style) {
                    <option [value]="style">{{ style }}</option>
                  }
                </select>
              </td>
              <td>
                <select
                  [attr.aria-label]="'Opacity of ' + row.code"
                  [attr.data-testid]="'opacity-' + row.code"
                  [ngModel]="row.opacity ?? 1"
                  (ngModelChange)="change(row, { opacity: opacityOf($event) })"
                >
                  @for (opacity of opacitiesFor(row.opacity); track opacity) {
                    <option [value]="opacity">{{ percent(opacity) }} %</option>
                  }
                </select>
              </td>
              <td>
                <input
                  class="code"
                  maxlength="60"
                  [attr.aria-label]="'Layer of ' + row.code"
                  [ngModel]="row.layer"
                  (ngModelChange)="change(row, { layer: $event })"
                />
              </td>
              <td class="num">{{ row.count > 0 ? formatCount(row.count) : '' }}</td>
              <td>
                @if (row.count === 0) {
                  <button class="plain-button" [attr.aria-label]="'Remove ' + row.code" (click)="remove(row)">
                    <mat-icon svgIcon="bin" />
                  </button>
                }
              </td>
            </tr>
          }
        </tbody>
      </table>
      <p>
        <button mat-button data-testid="add-code" (click)="add()"><mat-icon svgIcon="add" />Add a code</button>
      </p>
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      @if (problem(); as problem) {
        <p class="problem" role="alert">{{ problem }}</p>
      }
      <button mat-button mat-dialog-close>Cancel</button>
      <button mat-flat-button data-testid="codes-done" [disabled]="!hasChanged()" (click)="done()">Keep</button>
    </mat-dialog-actions>
  `,
  styleUrl: './code-dialog.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CodeDialogComponent {
  private readonly data = inject<{ store: JobStore; codes: readonly FeatureCode[] }>(MAT_DIALOG_DATA);
  private readonly self = inject<MatDialogRef<CodeDialogComponent>>(MatDialogRef);
  protected readonly formatCount = formatCount;
  protected readonly roles = LINE_ROLES;
  protected readonly roleNames = LINE_ROLE_NAMES;
  protected readonly styles = LINE_STYLES;
  protected readonly percent = (opacity: number): number => Math.round(100 * opacity);
  protected readonly problem = signal<string | undefined>(undefined);
  private next = 0;
  protected readonly rows = signal<readonly Row[]>(
    this.data.codes.map((code) => ({
      ...code,
      id: this.next++,
      count: this.data.store.lines().find(({ facts }) => facts.code === code.code)?.facts.lines ?? 0,
    })),
  );
  private readonly codes = computed<readonly FeatureCode[]>(() => this.rows().map(({ id: _, count: __, ...code }) => ({ ...code, code: code.code.trim(), layer: code.layer.trim() || code.code.trim() }))); // prettier-ignore
  protected readonly hasChanged = computed(() => JSON.stringify(this.codes()) !== JSON.stringify(this.data.codes));

  protected change({ id }: Row, change: Partial<FeatureCode>): void {
    this.rows.update((rows) => rows.map((row) => (row.id === id ? { ...row, ...change } : row)));
  }

  /** The usual ones, and the one it has where that came from a list. */
  protected opacitiesFor(own = 1): readonly number[] {
    return OPACITIES.includes(own) ? OPACITIES : [...OPACITIES, own].sort((a, b) => b - a);
  }

  /** Left out where it is full, as in lists that say nothing of it. */
  protected opacityOf(chosen: string | number): number | undefined {
    return Number(chosen) === 1 ? undefined : Number(chosen);
  }

  protected add(): void {
    this.rows.update((rows) => [
      ...rows,
      {
        id: this.next++,
        count: 0,
        code: '',
        meaning: '',
        role: 'breakline',
        colour: '#0b5fa5',
        style: 'solid',
        layer: '',
      },
    ]);
  }

  protected remove({ id }: Row): void {
    this.rows.update((rows) => rows.filter((row) => row.id !== id));
  }

  protected done(): void {
    const parsed = editCodes.parameters().safeParse({ codes: this.codes() });
    if (!parsed.success) {
      this.problem.set(parsed.error.issues[0]?.message);
      return;
    }
    this.data.store.start(
      editCodes.id,
      parsed.data,
      (error) => this.problem.set(error.problem.detail),
      () => this.self.close(),
    );
  }
}
