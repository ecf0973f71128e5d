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
import type { ProfileResource } from '@pampero/contract';
import { Chart, Legend, LinearScale, LineElement, PointElement, ScatterController, Tooltip } from 'chart.js';
import { formatNumber } from '@pampero/core/wording';

Chart.register(ScatterController, LineElement, PointElement, LinearScale, Legend, Tooltip);

const COLOURS = ['#0e6b78', '#c0392b', '#8a6d1f', '#5b3f8c', '#2e7d32', '#3a4a55'] as const;

/** Surfaces along a line: station to the right, elevation upwards, the points beside the line dotted. */
@Component({
  selector: 'pam-profile-chart',
  template: `<canvas #canvas role="img" aria-label="Profile: elevation over station"></canvas>`,
  styles: `
    :host {
      display: block;
      position: relative;
      height: 190px;
      margin: 6px 0;
      padding: 4px;
      border: 1px solid var(--rule);
      border-radius: 5px;
      background: #fff;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ProfileChartComponent {
  readonly profile = input.required<ProfileResource>();
  readonly unit = input('');
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private chart: Chart<'scatter'> | undefined;

  constructor() {
    afterRenderEffect(() => this.draw());
    inject(DestroyRef).onDestroy(() => this.chart?.destroy());
  }

  private draw(): void {
    const { surfaces, points } = this.profile();
    const unit = this.unit();
    const datasets = [
      ...surfaces.map(({ name, station, elevation }, k) => ({
        label: name,
        data: station.map((x, i) => ({ x, y: elevation[i] ?? NaN })),
        showLine: true,
        // A void stays a gap in the line.
        spanGaps: false,
        pointRadius: 0,
        borderWidth: 1.6,
        borderColor: COLOURS[k % COLOURS.length]!,
        backgroundColor: COLOURS[k % COLOURS.length]!,
      })),
      ...(points.station.length > 0
        ? [
            {
              label: 'ground points',
              data: points.station.map((x, i) => ({ x, y: points.elevation[i]! })),
              showLine: false,
              pointRadius: 1.1,
              pointHoverRadius: 2,
              borderWidth: 0,
              borderColor: '#b8842e',
              backgroundColor: '#b8842e88',
            },
          ]
        : []),
    ];
    if (this.chart) {
      this.chart.data = { datasets };
      this.chart.update('none');
      return;
    }
    const figures = { font: { family: 'IBM Plex Mono', size: 10.5 }, color: '#5b6670' };
    this.chart = new Chart(this.canvas().nativeElement, {
      type: 'scatter',
      data: { datasets },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        interaction: { mode: 'nearest', axis: 'x', intersect: false },
        scales: {
          x: { type: 'linear', ticks: { ...figures, maxTicksLimit: 7 }, grid: { color: '#eee7d8' } },
          y: { type: 'linear', ticks: { ...figures, maxTicksLimit: 6 }, grid: { color: '#eee7d8' } },
        },
        plugins: {
          legend: { labels: { boxWidth: 14, boxHeight: 2, font: { family: 'Barlow', size: 11.5 } } },
          tooltip: {
            callbacks: {
              title: ([item]) => (item ? `Station ${formatNumber(item.parsed.x ?? 0, 2)} ${unit}` : ''),
              label: ({ dataset, dataIndex, parsed }) => {
                const data = dataset.data as { x: number; y: number }[];
                const [here, next] = [data[dataIndex], data[dataIndex + 1]];
                const grade =
                  dataset.showLine && here && next && next.x > here.x
                    ? `, ${formatNumber((100 * (next.y - here.y)) / (next.x - here.x), 1)} %`
                    : '';
                return `${dataset.label ?? ''}: ${formatNumber(parsed.y ?? 0, 3)} ${unit}${grade}`;
              },
            },
          },
        },
      },
    });
  }
}
