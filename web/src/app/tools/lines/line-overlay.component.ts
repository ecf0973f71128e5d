import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { cornerAt, crossingsOf, MAGNET_NAMES, shapeOf, type Corner } from '@pampero/core/lines';
import { formatNumber } from '@pampero/core/wording';
import { sectionLength } from '../../drawing/cameras';
import type { ViewId } from '../../drawing/view-id';
import { LineStore } from '../../state/line-store';
import { ViewStore } from '../../state/view-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { LineEditor } from './line-editor';
import { LinePen } from './line-pen';
import { LinePlaces } from './line-places';

type Pixel = readonly [number, number];

/** Corners that are drawn as handles, and pixels between them: more of them would be a smear. */
const [MOST_HANDLES, HANDLES_APART] = [3000, 9] as const;
/** A name's letter and line, pixels. */
const [LETTER, LINE_HEIGHT] = [6.6, 13] as const;
/** Lines that a section names. */
const MOST_NAMED = 40;

/** Over a view: the line that is drawn, what draws the pen, the lines that are selected, and where lines cross a section. */
@Component({
  selector: 'pam-line-overlay',
  template: `
    <svg aria-hidden="true">
      @for (path of selected(); track path.key) {
        <path [attr.d]="path.line" class="selected-under" />
        <path [attr.d]="path.line" class="selected" />
      }
      @for (handle of handles(); track $index) {
        <rect [attr.x]="handle[0] - 3" [attr.y]="handle[1] - 3" width="6" height="6" class="handle" />
      }
      @if (active(); as at) {
        <circle [attr.cx]="at[0]" [attr.cy]="at[1]" r="6.5" class="active" data-testid="active-vertex" />
      }
      @if (pen(); as pen) {
        <path [attr.d]="pen.line" class="pen-under" />
        <path [attr.d]="pen.line" class="pen" />
        @for (corner of pen.corners; track $index) {
          <circle [attr.cx]="corner[0]" [attr.cy]="corner[1]" r="3" class="corner" />
        }
      }
      @if (pull(); as pull) {
        <path [attr.d]="pull.sign" class="pull" />
        <text [attr.x]="pull.x + 12" [attr.y]="pull.y - 8" class="pull-name" data-testid="magnet">{{ pull.name }}</text>
      }
      @for (mark of crossed(); track mark.key) {
        <path [attr.d]="'M' + mark.x + ',' + (mark.y - 9) + 'v18'" [style.stroke]="mark.colour" class="crossed" />
        @if (mark.shift > 0) {
          <path [attr.d]="'M' + mark.x + ',' + (mark.y - 9) + 'v' + -mark.shift + 'h4'" class="leader" />
        }
        <circle [attr.cx]="mark.x" [attr.cy]="mark.y" r="3.2" [style.fill]="mark.colour" class="crossed-at" />
      }
      @for (mark of crossed(); track mark.key) {
        <text [attr.x]="mark.x + 5" [attr.y]="mark.y - 10 - mark.shift" class="crossed-name">{{ mark.name }}</text>
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
    .pen,
    .selected {
      fill: none;
      stroke: #12b5a6;
      stroke-width: 2;
      stroke-linejoin: round;
    }
    .selected {
      stroke: #ff4fd8;
    }
    .pen-under,
    .selected-under {
      fill: none;
      stroke: rgb(255 255 255 / 75%);
      stroke-width: 4.5;
      stroke-linejoin: round;
    }
    .corner,
    .handle {
      fill: #fff;
      stroke: #0c6d66;
      stroke-width: 1.4;
    }
    .handle {
      stroke: #b3138f;
    }
    .active {
      fill: none;
      stroke: #b3138f;
      stroke-width: 2;
    }
    .pull {
      fill: none;
      stroke: #ffb020;
      stroke-width: 2;
    }
    text {
      font:
        11.5px Barlow,
        sans-serif;
      paint-order: stroke;
      stroke: rgb(255 255 255 / 85%);
      stroke-width: 3px;
      fill: #22303a;
    }
    .crossed-name {
      stroke: rgb(253 252 249 / 94%);
      stroke-width: 5px;
      stroke-linejoin: round;
    }
    .crossed {
      stroke-width: 1.4;
      fill: none;
    }
    .leader {
      stroke: #22303a;
      stroke-width: 0.7;
      fill: none;
    }
    .crossed-at {
      stroke: #fff;
      stroke-width: 1;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LineOverlayComponent {
  readonly view = input.required<ViewId>();

  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly lines = inject(LineStore);
  private readonly places = inject(LinePlaces);
  private readonly penStore = inject(LinePen);
  private readonly editor = inject(LineEditor);

  private pixel(corner: Pick<Corner, 'e' | 'n' | 'z'>): Pixel | undefined {
    return this.places.pixelOf(this.view(), corner);
  }

  protected readonly pen = computed(() => {
    if (this.views.tool() !== 'pen') return undefined;
    const corners = this.penStore.corners();
    if (corners.length === 0) return undefined;
    const hover = this.penStore.hover();
    const pixels = (hover ? [...corners, hover] : corners)
      .map((corner) => this.pixel(corner))
      .filter((pixel): pixel is [number, number] => pixel !== undefined);
    return { line: pathOf(pixels), corners: hover ? pixels.slice(0, -1) : pixels };
  });

  protected readonly pull = computed(() => {
    const tool = this.views.tool();
    const at = tool === 'pen' ? this.penStore.hover() : tool === 'lines' ? this.editor.dragged() : undefined;
    const pixel = at && this.pixel(at);
    if (!pixel || !at.pull) return undefined;
    const [x, y] = pixel;
    const sign =
      at.pull === 'corner' || at.pull === 'point'
        ? `M${x - 6},${y - 6}h12v12h-12Z`
        : at.pull === 'crossing'
          ? `M${x - 6},${y - 6}l12,12M${x + 6},${y - 6}l-12,12`
          : at.pull === 'perpendicular'
            ? `M${x - 6},${y + 6}h12M${x},${y + 6}v-12`
            : `M${x - 6},${y}l6,-7l6,7l-6,7Z`;
    return { x, y, sign, name: MAGNET_NAMES[at.pull] };
  });

  private readonly isEditing = computed(() => this.views.tool() === 'lines');

  /** Whether a place is seen in this view: a section shows what lies within its depth. */
  private readonly isSeen = computed<(e: number, n: number) => boolean>(() => {
    const camera = this.view() === 'section' || this.view() === 'after' ? this.cameras.section() : undefined;
    const length = camera && sectionLength(camera);
    if (!camera || !length) return () => true;
    const [ox, oy] = this.cameras.origin();
    const [ue, un] = [(camera.bx - camera.ax) / length, (camera.by - camera.ay) / length];
    return (e, n) => Math.abs((n - oy - camera.ay) * ue - (e - ox - camera.ax) * un) <= camera.depth / 2;
  });

  /** The selected lines as runs of pixels, corner by corner, the one that is dragged where it is dragged to. */
  private readonly runs = computed(() => {
    if (!this.isEditing()) return [];
    const [active, dragged, isSeen] = [this.editor.active(), this.editor.dragged(), this.isSeen()];
    return this.editor.selected().map((line) => {
      const runs: Pixel[][] = [[]];
      const corners = [...line.easting.keys(), ...(line.isClosed ? [0] : [])];
      for (const k of corners) {
        const isDragged = dragged !== undefined && active?.key === line.key && active.corner === k;
        const corner = isDragged ? dragged : cornerAt(line, k);
        const pixel = isSeen(corner.e, corner.n) ? this.pixel(corner) : undefined;
        if (pixel) runs.at(-1)!.push(pixel);
        else if (runs.at(-1)!.length > 0) runs.push([]);
      }
      return { key: line.key, runs };
    });
  });

  protected readonly selected = computed(() =>
    this.runs().map(({ key, runs }) => ({ key, line: runs.map((run) => pathOf(run)).join('') })),
  );

  /** Handles of corners; those that would lie over the one before are left out until the view is nearer. */
  protected readonly handles = computed<readonly Pixel[]>(() => {
    const out: Pixel[] = [];
    for (const { runs } of this.runs())
      for (const run of runs) {
        let last: Pixel | undefined;
        for (const pixel of run) {
          if (last && Math.hypot(pixel[0] - last[0], pixel[1] - last[1]) < HANDLES_APART) continue;
          if (out.length >= MOST_HANDLES) return out;
          out.push(pixel);
          last = pixel;
        }
      }
    return out;
  });

  protected readonly active = computed(() => {
    const at = this.isEditing() ? this.editor.activeCorner() : undefined;
    return at && this.pixel(this.editor.dragged() ?? at);
  });

  /** Where the lines that are shown cross the section's line, with code and elevation. */
  protected readonly crossed = computed(() => {
    if (this.view() !== 'section') return [];
    const camera = this.cameras.section();
    if (!camera || sectionLength(camera) === 0) return [];
    const [ox, oy] = this.cameras.origin();
    const cut = shapeOf(
      [
        { e: camera.ax + ox, n: camera.ay + oy, z: 0, source: 0 },
        { e: camera.bx + ox, n: camera.by + oy, z: 0, source: 0 },
      ],
      false,
    );
    const [west, east] = [cut.easting[0]!, cut.easting[1]!].sort((a, b) => a - b) as [number, number];
    const [south, north] = [cut.northing[0]!, cut.northing[1]!].sort((a, b) => a - b) as [number, number];
    const all = this.lines.shownLines();
    const colourOf = this.lines.codeOf();
    const marks = this.lines
      .index()
      .within(west, south, east, north)
      .flatMap((k) => {
        const line = all[k]!;
        return crossingsOf(line, cut).flatMap(({ legA, shareA, easting, northing }) => {
          const [a, b] = [cornerAt(line, legA), cornerAt(line, (legA + 1) % line.easting.length)];
          const z = a.z + (b.z - a.z) * shareA;
          if (Number.isNaN(z)) return [];
          const at = this.cameras.project('section', [easting, northing, z]);
          const { colour = '#0B5FA5' } = colourOf(line.code) ?? {};
          return at ? [{ key: `${line.key} ${legA}`, x: at[0], y: at[1], colour, name: `${line.code} ${formatNumber(z, 2)}` }] : []; // prettier-ignore
        });
      })
      .sort((p, q) => p.x - q.x)
      .slice(0, MOST_NAMED);
    // A name that would lie over another goes up until it does not. From the right, as names reach to the right: what leads up to one crosses no other.
    const taken: { left: number; right: number; y: number }[] = [];
    return marks.reverse().map((mark) => {
      const [left, right] = [mark.x, mark.x + LETTER * mark.name.length + 8];
      let shift = 0;
      const isTaken = (): boolean =>
        taken.some((box) => left < box.right && right > box.left && Math.abs(mark.y - shift - box.y) < LINE_HEIGHT);
      while (isTaken() && shift < 12 * LINE_HEIGHT) shift += LINE_HEIGHT;
      taken.push({ left, right, y: mark.y - shift });
      return { ...mark, shift };
    });
  });
}

function pathOf(pixels: readonly Pixel[]): string {
  return pixels.map(([x, y], k) => `${k === 0 ? 'M' : 'L'}${x.toFixed(1)},${y.toFixed(1)}`).join('');
}
