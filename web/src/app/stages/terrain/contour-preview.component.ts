import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  output,
  signal,
} from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { parseLength } from '@pampero/core/geodesy';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { ContourLabels } from '../../viewer/contour-labels';
import { DrawingLink } from '../../viewer/drawing-link';
import { ViewCameras } from '../../viewer/view-cameras';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';

/** Intervals that plans are drawn at, in the job's unit. */
const STEPS = [0.05, 0.1, 0.2, 0.25, 0.5, 1, 2, 2.5, 5, 10, 20, 25, 50, 100] as const;

/** The interval moved by hand, with its contours drawn at once over what Plan shows: seen before they are traced and kept. */
@Component({
  selector: 'pam-contour-preview',
  imports: [MatCheckboxModule],
  template: `
    <mat-checkbox [checked]="isOn()" (change)="isOn.set($event.checked)" data-testid="preview-contours">
      Show the lines while I choose<small>{{ says() }}</small>
    </mat-checkbox>
    @if (isOn()) {
      <label class="slide">
        <span>Interval</span>
        <input
          type="range"
          min="0"
          [max]="steps.length - 1"
          step="1"
          [value]="at()"
          aria-label="Interval"
          data-testid="interval-slide"
          (input)="choose(+$any($event.target).value)"
        />
        <span class="num">{{ text() }}</span>
      </label>
    }
  `,
  styles: `
    :host {
      display: block;
      margin: 4px 0 8px;
    }
    small {
      display: block;
      color: var(--ink-2);
      font-size: 11.5px;
    }
    .slide {
      display: grid;
      grid-template-columns: auto 1fr 64px;
      align-items: center;
      gap: 8px;
      input {
        accent-color: var(--accent);
      }
      .num {
        text-align: right;
        font-size: 12.5px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ContourPreviewComponent {
  /** What the form of contours holds. */
  readonly values = input.required<Readonly<Record<string, unknown>>>();
  readonly chosen = output<number>();
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly cameras = inject(ViewCameras);
  private readonly link = inject(DrawingLink);
  private readonly figures = inject(ContourLabels);
  protected readonly steps = STEPS;
  protected readonly isOn = signal(false);
  private readonly lines = signal<number | undefined>(undefined);

  private readonly interval = computed(() => {
    const given = this.values()['interval'];
    return typeof given === 'number' ? given : parseLength(String(given ?? ''), this.store.unit());
  });
  protected readonly at = computed(() => {
    const interval = this.interval() ?? 0.25;
    return STEPS.reduce(
      (best, step, k) => (Math.abs(step - interval) < Math.abs(STEPS[best]! - interval) ? k : best),
      0,
    );
  });
  protected readonly text = computed(() => `${this.interval() ?? '–'} ${shortUnit(this.store.unit())}`);
  protected readonly says = computed(() => {
    const lines = this.lines();
    if (!this.isOn()) return 'Preview contours.';
    return lines === undefined
      ? 'Looking…'
      : `${formatCount(lines)} lines in this view, ${formatNumber(this.took(), 0)} ms`;
  });
  private readonly took = signal(0);

  constructor() {
    inject(DestroyRef).onDestroy(() => this.figures.tried.set(undefined));
    effect((onCleanup) => {
      const interval = this.interval();
      const surface = this.layers.shownSurface();
      const window = this.cameras.planWindow();
      const base = Number(this.values()['baseElevation'] ?? 0);
      const indexEvery = Number(this.values()['indexEvery'] ?? 4);
      if (!this.isOn() || !surface || interval === undefined || !(interval > 0)) {
        this.draw(undefined);
        return;
      }
      let isOld = false;
      onCleanup(() => (isOld = true));
      const begun = performance.now();
      void this.link.ask('contours', { interval, base, indexEvery, window }).then((answer) => {
        if (isOld) return;
        this.took.set(performance.now() - begun);
        this.draw(answer);
      });
    });
  }

  private draw(answer: { index: Float32Array; between: Float32Array; lines: number } | undefined): void {
    this.lines.set(answer?.lines);
    this.figures.tried.set(answer);
  }

  protected choose(k: number): void {
    this.chosen.emit(STEPS[k]!);
  }
}
