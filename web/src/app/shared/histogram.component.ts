import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  type ElementRef,
  inject,
  input,
  viewChild,
} from '@angular/core';
import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { formatCount, formatNumber } from '@pampero/core/wording';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

/** Counts over a range as bars, with the range's ends beneath. */
@Component({
  selector: 'pam-histogram',
  template: `
    <div class="frame">
      <canvas #canvas role="img" [attr.aria-label]="title() + ' from ' + low() + ' to ' + high()"></canvas>
    </div>
    <div class="ends num">
      <span>{{ ends()[0] }}</span><span class="title">{{ title() }}</span
      ><span>{{ ends()[1] }}</span>
    </div>
  `,
  styles: `
    :host {
      display: block;
      margin: 8px 0 10px;
    }
    .frame {
      height: 64px;
      border-bottom: 1px solid var(--rule-strong);
    }
    .ends {
      display: flex;
      justify-content: space-between;
      font-size: 11px;
      color: var(--ink-2);
      padding-top: 2px;
    }
    .title {
      font-family: var(--words);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HistogramComponent {
  readonly title = input.required<string>();
  readonly counts = input.required<readonly number[]>();
  readonly low = input.required<number>();
  readonly high = input.required<number>();
  readonly decimals = input(0);
  readonly unit = input('');
  /** What is counted. */
  readonly counted = input('points');

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private chart: Chart<'bar'> | undefined;

  protected ends(): [string, string] {
    const of = (value: number): string => `${formatNumber(value, this.decimals())} ${this.unit()}`.trim();
    return [of(this.low()), of(this.high())];
  }

  constructor() {
    afterRenderEffect(() => this.draw());
    inject(DestroyRef).onDestroy(() => this.chart?.destroy());
  }

  private draw(): void {
    const counts = [...this.counts()];
    const step = (this.high() - this.low()) / counts.length;
    const labels = counts.map((_, i) => formatNumber(this.low() + (i + 0.5) * step, this.decimals()));
    if (this.chart) {
      this.chart.data = { labels, datasets: [{ ...this.chart.data.datasets[0]!, data: counts }] };
      this.chart.update('none');
      return;
    }
    this.chart = new Chart(this.canvas().nativeElement, {
      type: 'bar',
      data: {
        labels,
        datasets: [{ data: counts, backgroundColor: '#0e6b78', barPercentage: 1, categoryPercentage: 0.94 }],
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        scales: { x: { display: false }, y: { display: false, beginAtZero: true } },
        plugins: {
          // A chart elsewhere may have brought legends in, and this one has nothing to name.
          legend: { display: false },
          tooltip: {
            displayColors: false,
            callbacks: { label: ({ parsed }) => `${formatCount(parsed.y ?? 0)} ${this.counted()}` },
          },
        },
      },
    });
  }
}
