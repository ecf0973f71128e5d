import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { MatSelectModule } from '@angular/material/select';
import { importLines } from '@pampero/contract';
import { readLength } from '@pampero/core/geodesy';
import { LINE_ROLE_NAMES, LINE_ROLES, type LineRole } from '@pampero/core/lines';
import { shortUnit } from '../../shared/format';
import { SelectionStore } from '../../tools/selection-store';
import { JobStore } from '../../state/job-store';

/** Lines for surfaces: imported, or drawn as an outline in Plan. */
@Component({
  selector: 'pam-terrain-lines',
  imports: [FormsModule, MatButtonModule, MatIconModule, MatSelectModule],
  template: `
    <p class="soft">{{ does }}</p>
    <div class="line">
      <span>Use as</span>
      <mat-select
        class="box"
        [ngModel]="role()"
        (ngModelChange)="role.set($event)"
        aria-label="Use the lines as"
        data-testid="line-role"
        panelWidth="180px"
      >
        @for (choice of roles; track choice) {
          <mat-option [value]="choice">{{ names[choice] }}</mat-option>
        }
      </mat-select>
    </div>
    @if (role() === 'water') {
      <label class="line"
        ><span>Level, {{ unit() }}</span
        ><input class="box num" [ngModel]="level()" (ngModelChange)="level.set($event)" data-testid="line-level"
      /></label>
    }
    <div class="act">
      <button mat-stroked-button type="button" (click)="file.click()" data-testid="import-lines">
        <mat-icon svgIcon="upload" />Import lines
      </button>
      <button
        mat-stroked-button
        type="button"
        [disabled]="!outline()"
        (click)="keepOutline()"
        data-testid="keep-outline"
      >
        Use the outline drawn in Plan
      </button>
      <input
        #file
        type="file"
        hidden
        accept=".geojson,.json,.dxf,.csv,.txt"
        data-testid="lines-file"
        (change)="picked(file)"
      />
    </div>
    @if (problem(); as problem) {
      <p class="notice" role="alert">{{ problem }}</p>
    }
  `,
  styleUrls: ['../../sheets/sheet.scss', './terrain-lines.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TerrainLinesComponent {
  private readonly store = inject(JobStore);
  private readonly selection = inject(SelectionStore);
  protected readonly does = importLines.does;
  protected readonly roles = LINE_ROLES;
  protected readonly names = LINE_ROLE_NAMES;
  protected readonly role = signal<LineRole>('breakline');
  protected readonly level = signal('');
  protected readonly problem = signal<string | undefined>(undefined);
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly outline = this.selection.planOutline;

  protected picked(input: HTMLInputElement): void {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    const ending = file.name.split('.').at(-1)?.toLowerCase();
    const format = ending === 'dxf' ? 'dxf' : ending === 'csv' || ending === 'txt' ? 'list' : 'geojson';
    this.send(file, format);
  }

  protected keepOutline(): void {
    const corners = this.outline();
    if (!corners) return;
    const text = JSON.stringify({ type: 'Polygon', coordinates: [[...corners, corners[0]!]] });
    this.send(new File([text], `${this.names[this.role()]} drawn in Plan.geojson`), 'geojson');
    this.selection.clear();
  }

  private send(file: File, format: 'geojson' | 'dxf' | 'list'): void {
    const typed = this.role() === 'water' ? this.level().trim() : '';
    const read = typed === '' ? { value: undefined } : readLength(typed, this.store.unit());
    if ('fault' in read) return this.problem.set(read.fault);
    const level = read.value;
    this.problem.set(undefined);
    this.store.startWithFile('import-lines', file, {
      format,
      role: this.role(),
      ...(level !== undefined && { level }),
    });
  }
}
