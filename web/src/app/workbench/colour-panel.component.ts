import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { RETURN_COLOURS, stripColour } from '../drawing/colours';
import { dragHandle } from '../viewer/drag-handle';
import { RAMPS, rampGradient, type RampId } from '@pampero/core/tints';
import { LookStore, modeFacts } from '../state/look-store';
import { JobStore } from '../state/job-store';

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

  protected readonly facts = computed(() => modeFacts(this.look.mode()));
  protected readonly unit = computed(() => {
    const { unit } = this.facts();
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
    switch (this.look.mode()) {
      case 'returns':
        return Object.entries(RETURN_COLOURS).map(([name, colour]) => ({ name: `${name} return`, colour }));
      case 'strip':
        return [...new Set(this.store.clouds().flatMap((cloud) => cloud.source.strips))]
          .sort((a, b) => a - b)
          .slice(0, 40)
          .map((id) => ({ name: `strip ${id}`, colour: stripColour(id) }));
      default:
        return [];
    }
  });

  protected text(value: number): string {
    return formatNumber(value, this.facts().decimals);
  }

  protected setEnd(field: HTMLInputElement, end: 0 | 1): void {
    const value = Number(field.value.replace(',', '.').replace(/[\s\u2009]/g, ''));
    const [low, high] = this.look.range();
    if (Number.isFinite(value) && field.value.trim() !== '') {
      if (end === 0 && value < high) this.look.setRange(value, high);
      else if (end === 1 && value > low) this.look.setRange(low, value);
      else this.store.say('The range’s lower end has to lie under its upper end.');
    }
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
