import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { ViewCameras } from '../viewer/view-cameras';
import type { ViewId } from '../drawing/view-id';
import { LookStore } from '../state/look-store';
import { ViewStore } from '../state/view-store';
import { cornersOf } from './drawn-corners';
import { MeasureStore } from './measure-store';
import { SelectionStore } from './selection-store';
import { ToolGestures } from './tool-gestures';

/** What the tool in hand is drawing in a view, and what has been measured there. */
@Component({
  selector: 'pam-tool-overlay',
  template: `
    <svg aria-hidden="true">
      @for (at of rings(); track $index) {
        <circle [attr.cx]="at[0]" [attr.cy]="at[1]" r="7" class="found" />
      }
      @if (drawing(); as drawing) {
        @if (drawing.area) {
          <path [attr.d]="drawing.area" class="area" />
        }
        <path
          [attr.d]="drawing.line"
          [class]="drawing.isBrush ? 'brush' : 'line'"
          [attr.stroke-width]="drawing.isBrush ? 2 * selection.brushRadius() : null"
        />
        @for (corner of drawing.corners; track $index) {
          <circle [attr.cx]="corner[0]" [attr.cy]="corner[1]" [attr.r]="$first ? 5 : 3" class="corner" />
        }
      }
      @if (measured(); as path) {
        <path [attr.d]="path.line" class="measure" [class.area]="path.isArea" />
        @for (corner of path.corners; track $index) {
          <circle [attr.cx]="corner[0]" [attr.cy]="corner[1]" r="3.5" class="measure-corner" />
        }
      }
      @if (ring(); as at) {
        <circle [attr.cx]="at[0]" [attr.cy]="at[1]" [attr.r]="selection.brushRadius()" class="ring" />
      }
      @if (cross(); as at) {
        <path [attr.d]="'M' + (at[0] - 12) + ',' + at[1] + 'h24M' + at[0] + ',' + (at[1] - 12) + 'v24'" class="cross" />
      }
    </svg>
  `,
  styles: `
    :host,
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      pointer-events: none;
      overflow: hidden;
    }
    .line,
    .cross {
      fill: none;
      stroke: #ff4fd8;
      stroke-width: 1.8;
    }
    .area {
      fill: rgb(255 79 216 / 16%);
    }
    .brush {
      fill: none;
      stroke: rgb(255 79 216 / 35%);
      stroke-linecap: round;
      stroke-linejoin: round;
    }
    .corner {
      fill: #fff;
      stroke: #ff4fd8;
      stroke-width: 1.6;
    }
    .ring {
      fill: none;
      stroke: #ff4fd8;
      stroke-width: 1.4;
    }
    .found {
      fill: none;
      stroke: #ff5a36;
      stroke-width: 1.6;
    }
    .measure {
      fill: none;
      stroke: #f5b82e;
      stroke-width: 2;
      paint-order: stroke;
      &.area {
        fill: rgb(245 184 46 / 16%);
      }
    }
    .measure-corner {
      fill: #f5b82e;
      stroke: #3a2a00;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ToolOverlayComponent {
  readonly view = input.required<ViewId>();

  private readonly views = inject(ViewStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly gestures = inject(ToolGestures);
  private readonly measures = inject(MeasureStore);
  protected readonly selection = inject(SelectionStore);

  protected readonly drawing = computed(() => {
    const tool = this.views.tool();
    if (tool === 'section' || this.gestures.view() !== this.view()) return undefined;
    const held = this.gestures.pixels();
    const at = this.gestures.at();
    if (held.length === 0) return undefined;
    const next = at?.view === this.view() ? [...held, [at.px, at.py] as const] : held;
    const isBrush = tool === 'brush';
    const shape = isBrush ? next : cornersOf(tool, next, this.cameras.places()[this.view()].height);
    return {
      isBrush,
      line: pathOf(tool === 'box' ? shape : next, tool === 'box'),
      area: isBrush ? undefined : pathOf(shape, true),
      corners: isBrush || tool === 'box' || held.length > 40 ? [] : held,
    };
  });

  protected readonly rings = computed(() =>
    this.look.ringed().flatMap((place) => {
      const at = this.cameras.project(this.view(), place);
      return at ? [at] : [];
    }),
  );

  protected readonly ring = computed(() => {
    const at = this.gestures.at();
    return this.views.tool() === 'brush' && at?.view === this.view() ? ([at.px, at.py] as const) : undefined;
  });

  /** Where the keys are, when it is they that point. */
  protected readonly cross = computed(() => {
    const at = this.gestures.at();
    return this.views.tool() !== 'look' && at?.byKeys && at.view === this.view()
      ? ([at.px, at.py] as const)
      : undefined;
  });

  protected readonly measured = computed(() => {
    if (this.views.tool() !== 'measure') return undefined;
    const corners = this.measures.places().flatMap((place) => {
      const at = this.cameras.project(this.view(), place);
      return at ? [at] : [];
    });
    if (corners.length === 0) return undefined;
    const kind = this.measures.kind();
    const isArea = kind === 'area' || kind === 'volume';
    const at = this.gestures.at();
    const live = !this.measures.isEnded() && at?.view === this.view() ? [...corners, [at.px, at.py] as const] : corners;
    return { line: pathOf(live, isArea), corners, isArea };
  });
}

function pathOf(pixels: readonly (readonly [number, number])[], isClosed: boolean): string {
  if (pixels.length === 0) return '';
  const path = pixels.map(([x, y], i) => `${i === 0 ? 'M' : 'L'}${x.toFixed(1)},${y.toFixed(1)}`).join('');
  return isClosed ? `${path}Z` : pixels.length === 1 ? `${path}h0.1` : path;
}
