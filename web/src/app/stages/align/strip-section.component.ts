import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  viewChildren,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import type { ProductOf } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import type { StripSection } from '@pampero/core/strips';
import { formatNumber } from '@pampero/core/wording';
import { map, of } from 'rxjs';
import { ApiClient, ApiError } from '../../api/api-client';
import { stripColour } from '../../drawing/colours';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { ViewStore } from '../../state/view-store';
import { groundWindow } from './strip-section';

/** Times the difference between strips that is left above and below the ground. */
const ROOM = 2.5;

/** The section that lies in Plan, before and after an adjustment, side by side, each strip in its colour. Nothing has moved yet. */
@Component({
  selector: 'pam-strip-section',
  template: `
    @if (!section()) {
      <p class="soft">Click a map: the section there is shown here before and after.</p>
    } @else if (fault()) {
      <p class="notice" role="alert">{{ fault() }}</p>
    } @else {
      <div class="maps" data-testid="strip-section" [attr.data-points]="points()">
        @for (part of parts; track part.name) {
          <figure>
            <figcaption>{{ part.title }}</figcaption>
            <canvas #canvas role="img" [attr.aria-label]="'Section ' + part.title"></canvas>
          </figure>
        }
      </div>
      <p class="ends num">
        <span>{{ figures() }}</span>
        @for (strip of legend(); track strip.name) {
          <span class="strip"><i [style.background]="strip.colour"></i>{{ strip.name }}</span>
        }
      </p>
    }
  `,
  styleUrl: './side-by-side.scss',
  styles: `
    canvas {
      height: 150px;
    }
    .strip {
      display: inline-flex;
      align-items: center;
      gap: 4px;
    }
    i {
      width: 9px;
      height: 9px;
      border-radius: 2px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StripSectionComponent {
  readonly product = input.required<ProductOf<'adjustment'>>();
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly canvases = viewChildren<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly parts = [
    { name: 'before', title: 'section before' },
    { name: 'after', title: 'section after' },
  ] as const;

  protected readonly section = this.views.section;
  private readonly length = computed(() => {
    const line = this.section();
    return line ? Math.hypot(line.b[0] - line.a[0], line.b[1] - line.a[1]) : 0;
  });

  private readonly answer = rxResource({
    params: () => {
      const line = this.section();
      return {
        params: { jobId: this.store.jobId(), productId: this.product().id },
        body: line && this.length() > 0 ? { a: line.a, b: line.b, depth: this.views.sectionDepth() } : undefined,
      };
    },
    stream: ({ params: { params, body } }) =>
      !body || params.jobId === ''
        ? of(undefined)
        : this.api
            .call('sectionOfAdjustment', { params, body: { a: [...body.a], b: [...body.b], depth: body.depth } })
            .pipe(map((bytes) => unpackArrays(new Uint8Array(bytes)).arrays as unknown as StripSection)),
  });
  private readonly found = computed(() => (this.answer.hasValue() ? this.answer.value() : undefined));
  protected readonly points = computed(() => this.found()?.strip.length ?? 0);
  protected readonly fault = computed(() => {
    const error = this.answer.error();
    if (error) return error instanceof ApiError ? error.problem.detail : 'The section could not be loaded.';
    return this.found() && this.points() === 0 ? 'No strip lies on this section.' : '';
  });

  private readonly window = computed(() => {
    const found = this.found();
    const { before } = this.product().facts;
    return found && groundWindow(found, this.length(), ROOM * before.all.rmsd);
  });
  protected readonly figures = computed(() => {
    const window = this.window();
    const unit = shortUnit(this.store.unit());
    return window
      ? `${formatNumber(this.length(), 1)} ${unit} long, ${formatNumber(window.low, 2)} to ${formatNumber(window.high, 2)} ${unit}`
      : '';
  });
  protected readonly legend = computed(() => {
    const names = this.product().facts.stripNames;
    const there = [...new Set(this.found()?.strip ?? [])].sort((a, b) => a - b);
    return there.map((strip) => ({ name: names[strip] ?? String(strip), colour: this.colourOf(strip) }));
  });

  constructor() {
    afterRenderEffect(() => this.draw());
  }

  /** As the cloud is coloured: by point source ID, or by the strips' places in their list. */
  private colourOf(strip: number): string {
    const { stripsId, stripNames } = this.product().facts;
    return stripColour(stripsId === undefined ? Number(stripNames[strip]) : strip + 1);
  }

  private draw(): void {
    const [found, window] = [this.found(), this.window()];
    if (!found || !window) return;
    const length = this.length();
    const colours = this.product().facts.stripNames.map((_, strip) => this.colourOf(strip));
    this.canvases().forEach(({ nativeElement: element }, k) => {
      const ratio = devicePixelRatio || 1;
      const [width, height] = [element.clientWidth * ratio, element.clientHeight * ratio];
      element.width = width;
      element.height = height;
      const context = element.getContext('2d')!;
      const along = k === 0 ? found.along : found.alongAfter;
      const elevation = k === 0 ? found.elevation : found.elevationAfter;
      const size = Math.max(1.5, 1.5 * ratio);
      for (let i = 0; i < along.length; i++) {
        const y = height * (1 - (elevation[i]! - window.low) / (window.high - window.low));
        if (Number.isNaN(along[i]!) || y < 0 || y > height) continue;
        context.fillStyle = colours[found.strip[i]!]!;
        context.fillRect((along[i]! / length) * width - size / 2, y - size / 2, size, size);
      }
    });
  }
}
