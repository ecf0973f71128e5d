import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { isRamped } from '../drawing/colour-modes';
import { dragHandle } from '../viewer/drag-handle';
import { RAMPS, rampGradient, type RampId } from '@pampero/core/tints';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { readTyped } from '../shared/typed-field';

const WIDTH = 268;
const HEIGHT = 58;

/** What points are coloured by, over which range, and how they are drawn. */
@Component({
  selector: 'pam-colour-panel',
  imports: [DecimalPipe, FormsModule],
  templateUrl: './colour-panel.component.html',
  styleUrl: './colour-panel.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColourPanelComponent {
  protected readonly look = inject(LookStore);
  protected readonly store = inject(JobStore);
  protected readonly ramps = RAMPS;
  protected readonly gradient = rampGradient;
  protected readonly percents = [1, 2, 5] as const;
  protected readonly width = WIDTH;
  protected readonly height = HEIGHT;

  protected readonly unit = computed(() => {
    const unit = this.look.ramped()?.unit ?? '';
    return unit === 'length' ? shortUnit(this.store.unit()) : unit;
  });

  /** Bars of the values' spread, and where on it the ramp begins and ends. */
  protected readonly chart = computed(() => {
    const spread = this.look.spread();
    if (spread?.mode !== this.look.mode()) return undefined;
    const [low, high] = this.look.range();
    const from = Math.min(spread.low, low);
    const to = Math.max(spread.high, high);
    const x = (value: number): number => ((value - from) / (to - from)) * WIDTH;
    const most = Math.max(...spread.counts, 1);
    const step = (spread.high - spread.low) / spread.counts.length;
    const bars = spread.counts.map((count, i) => ({
      x: x(spread.low + i * step),
      width: Math.max(0.5, x(spread.low + (i + 1) * step) - x(spread.low + i * step) - 0.3),
      // By the root, so that what is rare is seen too.
      height: Math.sqrt(count / most) * HEIGHT,
    }));
    return { bars, low: x(low), high: x(high), perPixel: (to - from) / WIDTH };
  });

  protected readonly kinds = computed(() => {
    const facts = this.look.facts();
    return isRamped(facts) ? [] : (facts.kindsOf?.(this.look.sight()) ?? []);
  });

  protected text(value: number): string {
    return formatNumber(value, this.look.ramped()?.decimals ?? 0);
  }

  protected setEnd(field: HTMLInputElement, end: 0 | 1): void {
    const [low, high] = this.look.range();
    const read = readTyped(field.value, {
      name: end === 0 ? 'lower end' : 'upper end',
      ...(this.look.ramped()?.unit === 'length' && { unit: this.store.unit() }),
      refuse: (value) =>
        (end === 0 ? value < high : value > low) ? undefined : 'The lower end must be less than the upper end.',
    });
    if ('fault' in read) this.store.say(read.fault);
    else if (end === 0) this.look.setRange(read.value, high);
    else this.look.setRange(low, read.value);
    field.value = this.text(this.look.range()[end]);
  }

  protected byPercent(percent: 1 | 2 | 5): void {
    const spread = this.look.spread();
    if (spread?.mode !== this.look.mode()) return;
    const upper = { 1: 99, 2: 98, 5: 95 } as const;
    this.look.setRange(spread.percentiles[percent], spread.percentiles[upper[percent]]);
  }

  protected dragEnd(event: PointerEvent, end: 0 | 1): void {
    const chart = this.chart();
    if (!chart) return;
    const start = this.look.range();
    dragHandle(event, (dx) => {
      const value = start[end] + dx * chart.perPixel;
      if (end === 0) this.look.setRange(Math.min(value, start[1] - chart.perPixel), start[1]);
      else this.look.setRange(start[0], Math.max(value, start[0] + chart.perPixel));
    });
  }

  protected setRamp(id: string): void {
    this.look.setRamp(id as RampId);
  }
}
