import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { editClasses, type JobClass } from '@pampero/contract';
import { className, standardClasses } from '@pampero/core/cloud';
import { asJson } from '../api/api-client';
import { formatCount } from '@pampero/core/wording';
import { classColour } from '@pampero/core/tints';
import type { LookStore } from '../state/look-store';
import type { JobStore } from '../state/job-store';

interface Row {
  readonly code: number;
  name: string;
  colour: string;
  key: string;
  readonly count: number;
  /** Where its points go when the dialog is done. */
  into: number | undefined;
}

/** Names, colours and keys of classes; new ones of the surveyor's own; one class merged into another. */
@Component({
  selector: 'pam-class-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule, MatIconModule],
  template: `
    <h2 mat-dialog-title>Classes of this job</h2>
    <mat-dialog-content>
      <table>
        <thead>
          <tr>
            <th>Code</th>
            <th>Colour</th>
            <th>Name</th>
            <th>Key</th>
            <th class="num">Points</th>
            <th>Merge into</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.code) {
            <tr>
              <td class="num">{{ row.code }}</td>
              <td>
                <input
                  type="color"
                  [attr.aria-label]="'Colour of class ' + row.code"
                  [ngModel]="row.colour"
                  (ngModelChange)="change(row, { colour: $event })"
                />
              </td>
              <td>
                <input
                  class="name"
                  maxlength="60"
                  [attr.aria-label]="'Name of class ' + row.code"
                  [attr.data-testid]="'class-name-' + row.code"
                  [ngModel]="row.name"
                  (ngModelChange)="change(row, { name: $event })"
                />
              </td>
              <td>
                <input
                  class="key"
                  maxlength="1"
                  [attr.aria-label]="'Key of class ' + row.code"
                  [ngModel]="row.key"
                  (ngModelChange)="change(row, { key: $event })"
                />
              </td>
              <td class="num">{{ formatCount(row.count) }}</td>
              <td>
                @if (row.count > 0) {
                  <select
                    [attr.aria-label]="'Merge class ' + row.code + ' into'"
                    [ngModel]="row.into ?? ''"
                    (ngModelChange)="change(row, { into: $event === '' ? undefined : +$event })"
                  >
                    <option value="">–</option>
                    @for (other of rows(); track other.code) {
                      @if (other.code !== row.code) {
                        <option [value]="other.code">{{ other.code }} {{ other.name }}</option>
                      }
                    }
                  </select>
                }
              </td>
              <td>
                @if (row.code >= 64 && row.count === 0) {
                  <button
                    class="plain-button"
                    [attr.aria-label]="'Remove class ' + row.code"
                    (click)="remove(row.code)"
                  >
                    <mat-icon svgIcon="bin" />
                  </button>
                }
              </td>
            </tr>
          }
        </tbody>
      </table>
      <p>
        <button mat-button data-testid="add-class" (click)="add()"><mat-icon svgIcon="add" />Add a class</button>
        <span class="soft"
          >Codes 64 to 255 are the standard’s room for yours. To split a class, select some of its points and set
          theirs.</span
        >
      </p>
      @if (problem(); as problem) {
        <p class="notice error" role="alert">{{ problem }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Cancel</button>
      <button mat-flat-button data-testid="classes-done" (click)="done()">Keep</button>
    </mat-dialog-actions>
  `,
  styles: `
    table {
      border-collapse: collapse;
      width: 100%;
      font-size: 13px;
    }
    th {
      text-align: left;
      font-weight: 500;
      font-size: 12px;
      color: var(--ink-2);
    }
    td {
      padding: 2px 6px 2px 0;
      border-bottom: 1px solid var(--rule);
    }
    .num {
      text-align: right;
      padding-right: 10px;
    }
    input,
    select {
      border: 1px solid var(--rule-strong);
      border-radius: 3px;
      background: #fff;
      padding: 2px 5px;
    }
    input[type='color'] {
      width: 34px;
      height: 24px;
      padding: 1px;
    }
    .name {
      width: 190px;
    }
    .key {
      width: 30px;
      text-align: center;
    }
    select {
      max-width: 150px;
    }
    mat-icon {
      width: 17px;
      height: 17px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ClassDialogComponent {
  /** The workbench's stores live beside the dialog, not above it. */
  private readonly stores = inject<{ store: JobStore; look: LookStore }>(MAT_DIALOG_DATA);
  private readonly dialog = inject<MatDialogRef<ClassDialogComponent>>(MatDialogRef);
  protected readonly formatCount = formatCount;
  protected readonly problem = signal<string | undefined>(undefined);
  protected readonly rows = signal<readonly Row[]>(this.present());

  private present(): Row[] {
    const { store, look } = this.stores;
    const counts = store.classCounts();
    const own = new Map(store.jobClasses().map((c) => [c.code, c]));
    const codes = new Set([...counts.keys(), ...own.keys(), ...standardClasses.map(({ code }) => code)]);
    return [...codes]
      .sort((a, b) => a - b)
      .map((code) => ({
        code,
        name: look.className()(code),
        colour: look.classColour()(code).toLowerCase(),
        key: own.get(code)?.key ?? '',
        count: counts.get(code) ?? 0,
        into: undefined,
      }));
  }

  protected change(row: Row, change: Partial<Row>): void {
    this.rows.update((rows) => rows.map((r) => (r.code === row.code ? { ...r, ...change } : r)));
  }

  protected add(): void {
    const used = new Set(this.rows().map(({ code }) => code));
    let code = 64;
    while (used.has(code)) code++;
    if (code > 255) {
      this.problem.set('All 192 user class codes are in use.');
      return;
    }
    const row = { code, name: `My class ${code}`, colour: classColour(code), key: '', count: 0, into: undefined };
    this.rows.update((rows) => [...rows, row]);
  }

  protected remove(code: number): void {
    this.rows.update((rows) => rows.filter((row) => row.code !== code));
  }

  protected done(): void {
    const { store } = this.stores;
    // What is as the standard has it needs no keeping.
    const classes: JobClass[] = this.rows()
      .filter(({ code, name, colour, key }) =>
        code >= 64 ? this.isMine(code) : name !== className(code) || colour !== classColour(code).toLowerCase() || key,
      )
      .map(({ code, name, colour, key }) => ({ code, name: name.trim(), colour, ...(key && { key }) }));
    const parsed = editClasses.parameters().safeParse({ classes });
    if (!parsed.success) {
      const { path, message } = parsed.error.issues[0]!;
      const row = classes[Number(path[1])];
      this.problem.set(row ? `Class ${row.code}: ${message}` : message);
      return;
    }
    const onProblem = ({ problem }: { problem: { detail: string } }): void => this.problem.set(problem.detail);
    if (JSON.stringify(classes) !== JSON.stringify(store.jobClasses()))
      store.start('edit-classes', { classes }, onProblem);
    for (const { code, into } of this.rows()) {
      if (into === undefined) continue;
      const visible = { hiddenClasses: [], withWithheld: true };
      const selection = [{ how: 'add', shape: { kind: 'classes', classes: [code] }, visible }];
      store.start('set-class', { selection: asJson(selection), classCode: into }, onProblem);
    }
    this.dialog.close();
  }

  /** Codes of one's own that points use without a name are left to themselves. */
  private isMine(code: number): boolean {
    const row = this.rows().find((r) => r.code === code)!;
    return row.count === 0 || row.name !== className(code) || row.key !== '' || row.colour !== classColour(code);
  }
}
