import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { ViewStore } from '../state/view-store';
import { sectionLength, sectionToScene } from '../drawing/cameras';
import { DrawingLink } from './drawing-link';
import { PictureStore } from './picture-store';
import { roundMarks } from './scale-bar';
import { TintStore } from './tint-store';
import { ViewCameras } from './view-cameras';

/** Places along a section that are asked for the picture's colour. */
const RIBBON_STEPS = 240;

/** Over Section: elevation lines, stations, its ends, the surface as a line, the colours of the picture along it, what is under the cursor. */
@Component({
  selector: 'pam-section-overlay',
  template: `
    @if (axes(); as axes) {
      <svg aria-hidden="true">
        @for (mark of axes.elevations; track mark.at) {
          <line x1="0" [attr.x2]="width()" [attr.y1]="mark.at" [attr.y2]="mark.at" class="grid-line" />
          @if (mark.at > TOP) {
            <text x="6" [attr.y]="mark.at - 3" class="axis">{{ mark.label }}</text>
          }
        }
        @for (mark of axes.stations; track mark.at) {
          <line [attr.x1]="mark.at" [attr.x2]="mark.at" [attr.y1]="height() - 5" [attr.y2]="height()" class="tick" />
          @if (mark.at + 4 + mark.label.length * FIGURE_WIDTH < width()) {
            <text [attr.x]="mark.at + 4" [attr.y]="height() - 5" class="axis">{{ mark.label }}</text>
          }
        }
        @for (end of axes.ends; track end.label) {
          <line [attr.x1]="end.at" [attr.x2]="end.at" y1="0" [attr.y2]="height()" class="end-line" />
          <text [attr.x]="end.at + 5" y="46" class="end-label">{{ end.label }}</text>
        }
        @if (ribbon(); as ribbon) {
          <defs>
            <linearGradient
              id="section-picture"
              gradientUnits="userSpaceOnUse"
              [attr.x1]="ribbon.from"
              [attr.x2]="ribbon.to"
            >
              @for (stop of ribbon.stops; track $index) {
                <stop [attr.offset]="stop.at" [attr.stop-color]="stop.colour" [attr.stop-opacity]="stop.opacity" />
              }
            </linearGradient>
          </defs>
          @if (surfacePath(); as path) {
            <path [attr.d]="path" class="painted" transform="translate(0 8)" data-testid="section-picture" />
          }
          @if (!isSurfaceWhole()) {
            <rect
              [attr.x]="ribbon.from"
              [attr.width]="ribbon.to - ribbon.from"
              [attr.y]="height() - FOOT"
              height="8"
              class="ribbon"
              data-testid="section-foot"
            />
          }
        }
        @if (surfacePath(); as path) {
          <path [attr.d]="path" class="surface" />
        }
        @if (cursor(); as at) {
          <line x1="0" [attr.x2]="width()" [attr.y1]="at.y" [attr.y2]="at.y" class="cross" />
          <line [attr.x1]="at.x" [attr.x2]="at.x" y1="0" [attr.y2]="height()" class="cross" />
          <text
            [attr.x]="at.x > width() - 230 ? at.x - 8 : at.x + 8"
            [attr.y]="at.y < 24 ? at.y + 18 : at.y - 7"
            class="read"
            [style.text-anchor]="at.x > width() - 230 ? 'end' : 'start'"
          >
            {{ at.label }}
          </text>
        }
      </svg>
    }
  `,
  styleUrls: ['./overlay.scss', './section-overlay.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SectionOverlayComponent {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly link = inject(DrawingLink);
  private readonly tints = inject(TintStore);

  protected readonly width = computed(() => this.cameras.places().section.width);
  protected readonly height = computed(() => this.cameras.places().section.height);
  private readonly profile = signal<{ readonly stations: Float64Array; readonly elevations: Float64Array } | undefined>(
    undefined,
  );
  private asked = 0;
  /** Where the ribbon of the picture lies where there is no surface to paint: over the stations. */
  protected readonly FOOT = 26;
  /** Below the section's bar, and the width of a figure, pixels: what would be cut off is not written. */
  protected readonly TOP = 44;
  protected readonly FIGURE_WIDTH = 6.7;
  private readonly pictures = inject(PictureStore);
  private readonly along = signal<Uint32Array | undefined>(undefined);
  private askedAlong = 0;

  constructor() {
    effect((onCleanup) => {
      const camera = this.cameras.section();
      const isSeen = this.pictures.drawn().length > 0;
      const asked = ++this.askedAlong;
      let timer: ReturnType<typeof setTimeout> | undefined;
      onCleanup(() => clearTimeout(timer));
      untracked(() => {
        if (!camera || !isSeen) {
          this.along.set(undefined);
          return;
        }
        const { ax, ay, bx, by } = camera;
        const ask = (left: number): void =>
          void this.link.ask('pictureAlong', { line: [ax, ay, bx, by], steps: RIBBON_STEPS }).then((answer) => {
            if (asked !== this.askedAlong) return;
            this.along.set(answer?.colours);
            if (answer && !answer.isComplete && left > 0) timer = setTimeout(() => ask(left - 1), 300);
          });
        ask(20);
      });
    });
    effect(() => {
      const surface = this.layers.shownSurface();
      const camera = this.cameras.section();
      // Another look, another revision: what is told to the worker before this is asked.
      this.tints.drawn();
      const asked = ++this.asked;
      untracked(() => {
        if (!surface || !camera) {
          this.profile.set(undefined);
          return;
        }
        const { ax, ay, bx, by } = camera;
        void this.link.ask('profile', { line: [ax, ay, bx, by] }).then((profile) => {
          if (asked === this.asked) this.profile.set(profile);
        });
      });
    });
  }

  /** Whether the surface goes on from end to end: else the picture's colours lie along the foot too. */
  protected readonly isSurfaceWhole = computed(() => {
    const profile = this.profile();
    return profile !== undefined && !profile.elevations.some(Number.isNaN);
  });

  /** The surface along the middle of the section, broken where it has none. */
  protected readonly surfacePath = computed(() => {
    const profile = this.profile();
    const camera = this.cameras.section();
    if (!profile || !camera) return undefined;
    let path = '';
    let isDrawing = false;
    for (let i = 0; i < profile.stations.length; i++) {
      const z = profile.elevations[i]!;
      if (Number.isNaN(z)) {
        isDrawing = false;
        continue;
      }
      const [x, y] = this.cameras.pixelOf('section', [profile.stations[i]!, z]);
      path += `${isDrawing ? 'L' : 'M'}${x.toFixed(1)},${y.toFixed(1)}`;
      isDrawing = true;
    }
    return path || undefined;
  });

  /** The colours of the picture from end to end of the section, as stops of a gradient over the screen. */
  protected readonly ribbon = computed(() => {
    const colours = this.along();
    const camera = this.cameras.section();
    if (!colours || !camera || !colours.some((colour) => colour !== 0)) return undefined;
    const across = (station: number): number => this.cameras.pixelOf('section', [station, 0])[0];
    const last = colours.length - 1;
    const stops = Array.from(colours, (colour, k) => ({
      at: k / last,
      colour: `rgb(${colour & 255},${(colour >> 8) & 255},${(colour >> 16) & 255})`,
      opacity: colour === 0 ? 0 : 1,
    }));
    return { from: across(0), to: across(sectionLength(camera)), stops };
  });

  protected readonly cursor = computed(() => {
    const cursor = this.views.cursor();
    const camera = this.cameras.section();
    if (!camera || cursor?.station === undefined || cursor.elevation === undefined) return undefined;
    const [x, y] = this.cameras.pixelOf('section', [cursor.station, cursor.elevation - this.cameras.origin()[2]]);
    const unit = shortUnit(this.store.unit());
    return { x, y, label: `${formatNumber(cursor.station, 2)} ${unit} along, ${formatNumber(cursor.elevation, 2)}` };
  });

  protected readonly axes = computed(() => {
    const camera = this.cameras.section();
    if (!camera) return undefined;
    const [width, height] = [this.width(), this.height()];
    const oz = this.cameras.origin()[2];
    const unit = shortUnit(this.store.unit());
    const top = sectionToScene(camera, 0, 0, width, height);
    const bottom = sectionToScene(camera, width, height, width, height);
    const ups = roundMarks(bottom.z + oz, top.z + oz, Math.max(2, height / 34));
    const alongs = roundMarks(top.station, bottom.station, Math.max(2, width / 90));
    const decimals = (step: number): number => Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
    const atStation = (station: number): number => (station - top.station) / camera.unitsPerPixel;
    return {
      elevations: ups.marks.map((z) => ({
        at: ((top.z + oz - z) * camera.exaggeration) / camera.unitsPerPixel,
        label: formatNumber(z, decimals(ups.step)),
      })),
      stations: alongs.marks.map((s) => ({
        at: atStation(s),
        label: `${formatNumber(s, decimals(alongs.step))} ${unit}`,
      })),
      ends: [
        { at: atStation(0), label: 'A' },
        { at: atStation(sectionLength(camera)), label: 'A′' },
      ],
    };
  });
}
