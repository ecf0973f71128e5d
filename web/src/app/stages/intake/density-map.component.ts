import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  input,
  viewChild,
} from '@angular/core';
import type { CloudReport } from '@pampero/contract';
import { formatNumber } from '@pampero/core/wording';
import { abgr } from '../../drawing/colours';
import { RAMP_SIZE, rampGradient, rampTable } from '@pampero/core/tints';

/** From thin, pale, to thick, dark. */
const TABLE = rampTable('land').slice().reverse();
const VOID = abgr('#C8452F');

/** Where the points are thick and where there are none: the density over the cloud, holes in the ranging pole's red. */
@Component({
  selector: 'pam-density-map',
  template: `
    <canvas #canvas role="img" aria-label="Density of points over the cloud; places without points are red"></canvas>
    <div class="ends num">
      <span>0</span><i [style.background]="gradient"></i><span>{{ most() }} {{ unit() }}</span
      ><span class="void"><b></b>none</span>
    </div>
  `,
  styles: `
    :host {
      display: block;
      margin: 8px 0 10px;
    }
    canvas {
      display: block;
      width: 100%;
      max-height: 220px;
      object-fit: contain;
      object-position: left;
      image-rendering: pixelated;
      border: 1px solid var(--rule);
      background: var(--paper);
    }
    .ends {
      display: flex;
      align-items: center;
      gap: 6px;
      padding-top: 4px;
      font-size: 11px;
      color: var(--ink-2);
    }
    i {
      width: 90px;
      height: 7px;
    }
    .void {
      margin-left: auto;
    }
    b {
      display: inline-block;
      width: 9px;
      height: 9px;
      margin-right: 4px;
      background: var(--pole);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DensityMapComponent {
  readonly map = input.required<CloudReport['density']['map']>();
  readonly unit = input.required<string>();

  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly gradient = rampGradient('land').replace('90deg', '270deg');
  /** The density that 98 % of the cells stay under. */
  private readonly top = computed(() => {
    const { counts, cell } = this.map();
    const filled = counts.filter((count) => count > 0).sort((a, b) => a - b);
    return (filled[Math.floor(filled.length * 0.98)] ?? 1) / cell ** 2;
  });
  protected readonly most = computed(() => formatNumber(this.top(), this.top() < 10 ? 1 : 0));

  constructor() {
    afterRenderEffect(() => this.draw());
  }

  private draw(): void {
    const { columns, rows, cell, counts } = this.map();
    const canvas = this.canvas().nativeElement;
    canvas.width = columns;
    canvas.height = rows;
    const context = canvas.getContext('2d')!;
    const picture = context.createImageData(columns, rows);
    const pixels = new Uint32Array(picture.data.buffer);
    for (let row = 0; row < rows; row++) {
      for (let column = 0; column < columns; column++) {
        const count = counts[row * columns + column]!;
        const shade = TABLE[Math.min(RAMP_SIZE - 1, Math.round((count / cell ** 2 / this.top()) * (RAMP_SIZE - 1)))]!;
        pixels[(rows - 1 - row) * columns + column] = count === 0 ? VOID : shade;
      }
    }
    context.putImageData(picture, 0, 0);
  }
}
