import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChildren,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { unpackArrays } from '@pampero/core/binary';
import type { RasterFrame } from '@pampero/core/raster';
import { RAMP_SIZE, rampGradient, rampTable } from '@pampero/core/tints';
import { formatNumber } from '@pampero/core/wording';
import { map, of } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';

const TABLE = rampTable('either-side');
/** Where no two strips meet: the paper's own shade. */
const NOTHING = 0x00000000;

/** Where strips differ, and which way: one map, or two of one scale side by side. A click goes there. */
@Component({
  selector: 'pam-difference-map',
  template: `
    <div class="maps">
      @for (part of parts(); track part.name) {
        <figure>
          <figcaption>
            <span>{{ part.title }}</span>
            <button
              type="button"
              class="plain-button"
              [attr.aria-pressed]="isInPlan(part.name)"
              [attr.data-testid]="'map-in-plan-' + part.name"
              (click)="togglePlan(part.name)"
            >
              {{ isInPlan(part.name) ? 'Points again' : 'Show in Plan' }}
            </button>
          </figcaption>
          <canvas
            #canvas
            role="img"
            tabindex="0"
            [attr.aria-label]="'Map of strip differences ' + part.title"
            [attr.data-testid]="'difference-map-' + part.name"
            (click)="go($event)"
          ></canvas>
        </figure>
      }
    </div>
    <div class="ends num">
      <span>−{{ far() }}</span
      ><i [style.background]="gradient"></i><span>+{{ far() }} {{ unit() }}</span
      ><span class="what">later strip less earlier</span>
    </div>
    @if (problem()) {
      <p class="notice" role="alert">{{ problem() }}</p>
    }
  `,
  styleUrl: './side-by-side.scss',
  styles: `
    .ends {
      flex-wrap: nowrap;
      gap: 6px;
    }
    figcaption button {
      font-size: 11.5px;
      color: var(--accent);
      white-space: nowrap;
    }
    canvas {
      max-height: 240px;
      object-fit: contain;
      object-position: left;
      image-rendering: pixelated;
      cursor: crosshair;
    }
    i {
      width: 90px;
      height: 7px;
    }
    .what {
      margin-left: auto;
      font-family: var(--words);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DifferenceMapComponent {
  readonly productId = input.required<number>();
  readonly frame = input.required<RasterFrame>();
  readonly halfWidth = input.required<number>();
  readonly unit = input.required<string>();
  /** Names of the packed maps, and what stands over each. */
  readonly parts = input.required<readonly { readonly name: string; readonly title: string }[]>();
  /** One pair of strips alone, by its place in the list; all together where left out. */
  readonly pair = input<number>();
  /** A place in the job that was clicked. */
  readonly chosen = output<readonly [number, number]>();

  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly canvases = viewChildren<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly gradient = rampGradient('either-side');
  protected readonly far = computed(() => formatNumber(this.halfWidth(), this.halfWidth() < 0.095 ? 3 : 2));
  protected readonly problem = signal('');

  private readonly maps = rxResource({
    params: () => ({ jobId: this.store.jobId(), productId: this.productId(), pair: this.pair() }),
    stream: ({ params: { pair, ...params } }) =>
      params.jobId === ''
        ? of(undefined)
        : this.api
            .call('showProduct', { params, ...(pair !== undefined && { query: { part: String(pair) } }) })
            .pipe(map((bytes) => unpackArrays(new Uint8Array(bytes)).arrays)),
  });

  constructor() {
    afterRenderEffect(() => this.draw());
  }

  private draw(): void {
    if (!this.maps.hasValue()) {
      this.problem.set(this.maps.error() ? 'The map could not be loaded. Load the page again.' : '');
      return;
    }
    const arrays = this.maps.value();
    const { columns, rows } = this.frame();
    const far = this.halfWidth();
    this.canvases().forEach((canvas, k) => {
      const values = arrays?.[this.parts()[k]!.name] as Float32Array | undefined;
      if (!values) return;
      const element = canvas.nativeElement;
      element.width = columns;
      element.height = rows;
      const context = element.getContext('2d')!;
      const picture = context.createImageData(columns, rows);
      const pixels = new Uint32Array(picture.data.buffer);
      for (let row = 0; row < rows; row++)
        for (let column = 0; column < columns; column++) {
          const value = values[row * columns + column]!;
          const shade = Math.round(((value / far + 1) / 2) * (RAMP_SIZE - 1));
          pixels[(rows - 1 - row) * columns + column] = Number.isNaN(value)
            ? NOTHING
            : TABLE[Math.max(0, Math.min(RAMP_SIZE - 1, shade))]!;
        }
      context.putImageData(picture, 0, 0);
    });
  }

  /** What the server calls a map: all together has no name. */
  private partOf(name: string): string | undefined {
    const pair = this.pair();
    return pair !== undefined ? String(pair) : name === 'elevation' ? undefined : name;
  }

  protected isInPlan(name: string): boolean {
    const shown = this.layers.isReliefDrawn() ? this.layers.shownGrid() : undefined;
    return shown?.id === this.productId() && shown.part === this.partOf(name);
  }

  /** The map in Plan, in place of the points, and back. */
  protected togglePlan(name: string): void {
    if (this.isInPlan(name)) {
      this.layers.lookAtGrid(undefined);
      this.layers.showing.set('points');
    } else this.layers.lookAtGrid(this.productId(), this.partOf(name));
  }

  protected go(event: MouseEvent): void {
    const element = event.target as HTMLCanvasElement;
    const { columns, rows, cell, east, north } = this.frame();
    // The picture is fitted into the element from its left.
    const scale = Math.min(element.clientWidth / columns, element.clientHeight / rows);
    const top = (element.clientHeight - rows * scale) / 2;
    const [column, row] = [event.offsetX / scale, rows - (event.offsetY - top) / scale];
    if (column < 0 || row < 0 || column > columns || row > rows) return;
    this.chosen.emit([east + column * cell, north + row * cell]);
  }
}
