import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { splitLine, TEXT_COLUMNS, type TextColumn, type TextLayout } from '@pampero/core/formats/text';
import type { PendingFile } from './pending-file';

const COLUMNS = (['none', ...TEXT_COLUMNS.filter((id) => id !== 'none')] as const).map((id) => ({
  id,
  name: id === 'none' ? 'not used' : id,
}));
const SHOWN = 8;

/** The first lines of a text file in its columns, each column's meaning chosen over it. */
@Component({
  selector: 'pam-text-layout',
  template: `
    <div class="ways">
      <label
        >Columns separated by
        <select
          #delimiter
          [value]="layout().delimiter"
          (change)="file().changeLayout({ delimiter: asDelimiter(delimiter.value) })"
          data-testid="text-delimiter"
        >
          <option value=" ">spaces</option>
          <option value=",">commas</option>
          <option value=";">semicolons</option>
          <option value="&#9;">tabs</option>
        </select></label
      >
      <label
        >Lines to skip
        <input
          #skip
          type="number"
          min="0"
          max="10000"
          [value]="layout().skippedLines"
          (change)="file().changeLayout({ skippedLines: +skip.value })"
      /></label>
      <label class="check"
        ><input
          #comma
          type="checkbox"
          [checked]="layout().hasDecimalComma"
          (change)="file().changeLayout({ hasDecimalComma: comma.checked })"
        />decimal comma</label
      >
    </div>
    <div class="scroll">
      <table class="num">
        <thead>
          <tr>
            @for (column of layout().columns; track $index) {
              <th>
                <select
                  #meaning
                  [attr.aria-label]="'Column ' + ($index + 1)"
                  [attr.data-testid]="'text-column-' + $index"
                  (change)="file().setColumn($index, asColumn(meaning.value))"
                >
                  @for (choice of columns; track choice.id) {
                    <option [value]="choice.id" [selected]="choice.id === column">{{ choice.name }}</option>
                  }
                </select>
              </th>
            }
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track $index) {
            <tr [class.skipped]="row.isSkipped">
              @for (column of layout().columns; track $index) {
                <td>{{ row.cells[$index] }}</td>
              }
            </tr>
          }
        </tbody>
      </table>
    </div>
  `,
  styleUrl: '../../shared/first-lines.scss',
  styles: `
    .ways {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 16px;
      margin: 8px 0;
      font-size: 13px;
      align-items: center;
    }
    input[type='number'] {
      border: 1px solid var(--rule-strong);
      border-radius: 4px;
      background: #fff;
      padding: 2px 4px;
      width: 64px;
    }
    .check {
      display: flex;
      gap: 5px;
      align-items: center;
    }
    .skipped td {
      color: var(--ink-3);
      text-decoration: line-through;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TextLayoutComponent {
  readonly file = input.required<PendingFile>();
  readonly lines = input.required<readonly string[]>();

  protected readonly columns = COLUMNS;
  protected readonly layout = computed<TextLayout>(
    () =>
      this.file().layout() ?? {
        delimiter: ' ',
        hasDecimalComma: false,
        skippedLines: 0,
        columns: ['easting', 'northing', 'elevation'],
      },
  );
  protected readonly rows = computed(() => {
    const { delimiter, skippedLines } = this.layout();
    const first = Math.max(0, Math.min(skippedLines, 2, this.lines().length - SHOWN));
    const from = Math.max(0, skippedLines - first);
    return this.lines()
      .slice(from, from + SHOWN)
      .map((line, i) => ({ cells: splitLine(line, delimiter), isSkipped: from + i < skippedLines }));
  });

  protected asColumn(value: string): TextColumn {
    return value as TextColumn;
  }
  protected asDelimiter(value: string): TextLayout['delimiter'] {
    return value as TextLayout['delimiter'];
  }
}
