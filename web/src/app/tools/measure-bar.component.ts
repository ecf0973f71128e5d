import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { NameDialogComponent, type NameDialogData } from '../shared/name-dialog.component';
import { ViewCameras } from '../viewer/view-cameras';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';
import { MeasureStore, MEASURES } from './measure-store';
import { toolFacts } from './tools';
import { readTyped } from '../shared/typed-field';

/** What was measured, to be read, copied and kept. */
@Component({
  selector: 'pam-measure-bar',
  template: `
    @if (views.tool() === 'measure') {
      <div class="bar" role="region" aria-label="Measure">
        <div class="modes" role="group" aria-label="What is measured">
          @for (kind of kinds; track kind.id) {
            <button
              class="plain-button"
              [class.on]="measures.kind() === kind.id"
              [attr.aria-pressed]="measures.kind() === kind.id"
              [attr.data-testid]="'measure-' + kind.id"
              (click)="measures.setKind(kind.id)"
            >
              {{ kind.name }}
            </button>
          }
        </div>
        @if (measures.kind() === 'volume' && measures.places().length > 2) {
          <label
            >over the level
            <input #level class="num" [value]="levelText()" (change)="setLevel(level)" data-testid="measure-level" />
            {{ unit() }}</label
          >
        }
        <dl aria-live="polite">
          @for (row of measures.rows(); track row.label) {
            <div>
              <dt>{{ row.label }}</dt>
              <dd class="num" [attr.data-testid]="'row-' + $index">{{ row.value }}</dd>
            </div>
          } @empty {
            <p class="soft">{{ hint }}</p>
          }
        </dl>
        @if (measures.rows().length > 0) {
          <div class="acts">
            <button class="plain-button act" (click)="copy()" data-testid="copy-measure">Copy (Y)</button>
            <button class="plain-button act" (click)="keep()">Keep …</button>
            @if (measures.kind() === 'distance') {
              <button class="plain-button act" (click)="laySection()" data-testid="section-along">
                Section along it
              </button>
            }
            <button class="plain-button act" (click)="measures.clear()">Clear</button>
          </div>
        }
      </div>
    }
  `,
  styleUrl: './bar.scss',
  styles: `
    .bar {
      width: 300px;
    }
    input {
      width: 80px;
      text-align: right;
      border: 1px solid var(--rule-strong);
      border-radius: 3px;
      background: #fff;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '(document:keydown)': 'keyed($event)' },
})
export class MeasureBarComponent {
  protected readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  protected readonly measures = inject(MeasureStore);
  private readonly dialog = inject(MatDialog);
  private readonly cameras = inject(ViewCameras);
  protected readonly kinds = MEASURES;
  protected readonly hint = toolFacts('measure').hint;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly levelText = computed(() => formatNumber(this.measures.usedLevel(), 2));

  protected setLevel(field: HTMLInputElement): void {
    const read = readTyped(field.value, { name: 'level', unit: this.store.unit() });
    if ('value' in read) this.measures.setLevel(read.value);
    else this.store.say(read.fault);
    field.value = this.levelText();
  }

  protected copy(): void {
    navigator.clipboard.writeText(this.measures.text()).then(
      () => this.store.say('Copied.'),
      () => this.store.say('The browser blocks copying. Select the figures and copy them.'),
    );
  }

  /** A section from the first place to the last. */
  protected laySection(): void {
    const places = this.measures.places();
    const [a, b] = [places[0]!, places.at(-1)!];
    if (Math.hypot(a[0] - b[0], a[1] - b[1]) === 0) {
      this.store.say('The line ends where it begins. A section needs two ends.');
      return;
    }
    this.cameras.forgetSection();
    this.views.section.set({ a: [a[0], a[1]], b: [b[0], b[1]] });
  }

  protected keep(): void {
    const data: NameDialogData = { title: 'Save the measurement', label: 'Name', action: 'Keep' };
    this.dialog
      .open<NameDialogComponent, NameDialogData, string>(NameDialogComponent, { data, width: '420px' })
      .afterClosed()
      .subscribe((name) => {
        if (!name) return;
        this.store.pin({
          kind: 'measure',
          name,
          how: this.measures.kind(),
          places: this.measures.places().map((place) => [...place]),
          ...(this.measures.kind() === 'volume' && { level: this.measures.usedLevel() }),
        });
      });
  }

  protected keyed(event: KeyboardEvent): void {
    if (this.views.tool() !== 'measure' || event.key !== 'y' || event.ctrlKey || event.metaKey) return;
    if (event.target instanceof HTMLElement && event.target.closest('input, textarea, [role="dialog"]')) return;
    if (this.measures.rows().length > 0) this.copy();
  }
}
