import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule } from '@angular/material/dialog';
import type { Cloud, PointFileFormat } from '@pampero/contract';
import { className } from '@pampero/core/cloud';
import { WRITTEN_COLUMNS, type WrittenColumn } from '@pampero/core/formats/text';
import { readLength, type LengthUnit } from '@pampero/core/geodesy';
import { urlOf } from '../../api/api-client';
import { formatCount } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { mustBePositive } from '../../shared/typed-field';
import { toggled } from '../../shared/toggled';

export interface ExportPointsData {
  readonly jobId: string;
  readonly unit: LengthUnit;
  readonly cloud: Cloud;
}

interface Choice {
  readonly id: string;
  readonly name: string;
  readonly does: string;
  readonly format: PointFileFormat;
  readonly version?: '1.2';
}

const CHOICES: readonly Choice[] = [
  { id: 'las', name: 'LAS 1.4', does: 'Every attribute, any class.', format: 'las' },
  { id: 'laz', name: 'LAZ 1.4', does: 'The same, a fifth to a tenth of the size.', format: 'laz' },
  { id: 'copc', name: 'COPC', does: 'LAZ that can be viewed directly from a web server.', format: 'copc' },
  { id: 'las12', name: 'LAS 1.2', does: 'For older programs; classes 0 to 31.', format: 'las', version: '1.2' },
  { id: 'laz12', name: 'LAZ 1.2', does: 'For older programs, compressed.', format: 'laz', version: '1.2' },
  { id: 'e57', name: 'E57', does: 'For programs that work with single scans.', format: 'e57' },
  { id: 'ply', name: 'PLY', does: 'Coordinates, intensity, colour and class, binary.', format: 'ply' },
  { id: 'csv', name: 'CSV', does: 'Text with headings; you choose the columns.', format: 'csv' },
  { id: 'xyz', name: 'XYZ', does: 'Text without headings; you choose the columns.', format: 'xyz' },
];
const USUAL: readonly WrittenColumn[] = ['easting', 'northing', 'elevation', 'intensity', 'class'];

/** Which points leave, in which form. */
@Component({
  selector: 'pam-export-points-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>Points of {{ data.cloud.name }}</h2>
    <mat-dialog-content>
      <div class="formats" role="radiogroup" aria-label="Form">
        @for (option of choices; track option.id) {
          <label [class.on]="option.id === choice().id"
            ><input
              type="radio"
              name="format"
              [checked]="option.id === choice().id"
              (change)="choice.set(option)"
              [attr.data-testid]="'format-' + option.id"
            /><b>{{ option.name }}</b
            ><small>{{ option.does }}</small></label
          >
        }
      </div>
      @if (isText()) {
        <fieldset>
          <legend>Columns, in this order</legend>
          @for (column of columns; track column) {
            <label
              ><input type="checkbox" [checked]="picked().includes(column)" (change)="toggleColumn(column)" />{{
                columnName(column)
              }}</label
            >
          }
        </fieldset>
      }
      <fieldset>
        <legend>Classes</legend>
        @for (row of classes; track row.code) {
          <label
            ><input type="checkbox" [checked]="!left().has(row.code)" (change)="toggleClass(row.code)" />{{ row.code }}
            {{ row.name }} <span class="num soft">{{ row.count }}</span></label
          >
        }
      </fieldset>
      <div class="line">
        <label
          >One point per cube of
          <input
            #box
            class="num"
            [value]="spacing()"
            (input)="spacing.set(box.value)"
            placeholder="all"
            data-testid="export-spacing"
          />
          {{ short }}</label
        >
        <label
          ><input #out type="checkbox" [checked]="leavesWithheld()" (change)="leavesWithheld.set(out.checked)" />leave
          withheld points out</label
        >
      </div>
      @if (problem()) {
        <div class="notice error">{{ problem() }}</div>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Cancel</button>
      <a
        mat-flat-button
        [attr.href]="problem() ? null : url()"
        [attr.aria-disabled]="problem() !== undefined"
        download
        mat-dialog-close
        data-testid="export-now"
        >Write {{ choice().name }}</a
      >
    </mat-dialog-actions>
  `,
  styles: `
    .formats {
      display: grid;
      grid-template-columns: repeat(3, 1fr);
      gap: 6px;
    }
    .formats label {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 0 6px;
      padding: 6px 8px;
      border: 1px solid var(--rule);
      border-radius: 5px;
      cursor: pointer;
    }
    .formats .on {
      border-color: var(--accent);
      background: var(--accent-soft);
    }
    small {
      grid-column: 2;
      color: var(--ink-2);
      line-height: 1.25;
    }
    fieldset {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 16px;
      margin: 12px 0 0;
      padding: 6px 12px 8px;
      border: 1px solid var(--rule);
      border-radius: 5px;
    }
    legend {
      color: var(--ink-2);
      padding: 0 4px;
    }
    fieldset label,
    .line label {
      display: flex;
      gap: 5px;
      align-items: center;
    }
    [aria-disabled='true'] {
      opacity: 0.45;
      pointer-events: none;
    }
    .line {
      display: flex;
      gap: 24px;
      margin-top: 12px;
    }
    .line input.num {
      width: 78px;
      border: 1px solid var(--rule-strong);
      border-radius: 4px;
      padding: 3px 6px;
      text-align: right;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ExportPointsDialogComponent {
  protected readonly data = inject<ExportPointsData>(MAT_DIALOG_DATA);

  protected readonly choices = CHOICES;
  protected readonly short = shortUnit(this.data.unit);
  protected readonly columns = WRITTEN_COLUMNS.filter((column) =>
    ['red', 'green', 'blue'].includes(column)
      ? this.data.cloud.columns.rgb
      : column !== 'gps-time' || this.data.cloud.columns.gpsTime,
  );
  protected readonly classes = Object.entries(this.data.cloud.classCounts).map(([code, count]) => ({
    code: Number(code),
    name: className(Number(code)),
    count: formatCount(count),
  }));
  protected readonly choice = signal<Choice>(CHOICES[0]!);
  protected readonly picked = signal<readonly WrittenColumn[]>(USUAL);
  protected readonly left = signal<ReadonlySet<number>>(new Set());
  protected readonly spacing = signal('');
  protected readonly leavesWithheld = signal(false);
  protected readonly isText = computed(() => ['csv', 'xyz'].includes(this.choice().format));

  /** The spacing as typed; nothing where all points go out. */
  private readonly read = computed(() =>
    this.spacing().trim() === '' ? undefined : readLength(this.spacing(), this.data.unit),
  );
  protected readonly problem = computed(() => {
    if (this.left().size === this.classes.length) return 'Choose at least one class.';
    if (this.isText() && this.picked().length === 0) return 'Choose at least one column.';
    const read = this.read();
    if (!read) return undefined;
    return 'fault' in read ? read.fault : mustBePositive(read.value);
  });
  protected readonly url = computed(() => {
    const { format, version } = this.choice();
    const read = this.read();
    return urlOf('exportPoints', {
      params: { jobId: this.data.jobId, cloudId: this.data.cloud.id },
      query: {
        format,
        ...(version && { version }),
        ...(this.left().size > 0 && {
          classes: this.classes.filter((row) => !this.left().has(row.code)).map((row) => row.code),
        }),
        ...(read && 'value' in read && { spacing: read.value }),
        ...(this.leavesWithheld() && { withheld: 'left-out' as const }),
        ...(this.isText() && { columns: this.picked() }),
      },
    });
  });

  protected columnName(column: WrittenColumn): string {
    return { 'gps-time': 'GPS time', 'point-source-id': 'strip' }[column as string] ?? column.replaceAll('-', ' ');
  }

  protected toggleColumn(column: WrittenColumn): void {
    const rest = this.picked().filter((c) => c !== column);
    const isNew = rest.length === this.picked().length;
    this.picked.set(isNew ? WRITTEN_COLUMNS.filter((c) => c === column || this.picked().includes(c)) : rest);
  }

  protected toggleClass(code: number): void {
    this.left.update((before) => toggled(before, code));
  }
}
