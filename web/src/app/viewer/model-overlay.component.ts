import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { Box } from '@pampero/core/selection';
import { rangeOver } from '../drawing/colour-modes/colour-mode';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { dragHandle } from './drag-handle';
import { notesIn } from './pinned-notes';
import { ViewCameras } from './view-cameras';

type Place3 = readonly [number, number, number];

/** Corners of a box, by bits: 1 east, 2 north, 4 up; and the pairs of them that are its edges. */
const EDGES: readonly (readonly [number, number])[] = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((a) =>
  [1, 2, 4].filter((bit) => (a & bit) === 0).map((bit) => [a, a | bit] as const),
);
const FACE_NAMES = ['west', 'east', 'south', 'north', 'lower', 'upper'] as const;

/** Over Model: the focus box with a handle on each face, what the section covers, notes. */
@Component({
  selector: 'pam-model-overlay',
  template: `
    <svg aria-hidden="true">
      @if (sectionPath(); as path) {
        <path [attr.d]="path" class="section" />
      }
      @if (boxPath(); as path) {
        <path [attr.d]="path" class="box" />
      }
      @for (face of faces(); track face.name) {
        <circle
          [attr.cx]="face.at[0]"
          [attr.cy]="face.at[1]"
          r="6"
          class="handle"
          [attr.data-testid]="'box-' + face.name"
          (pointerdown)="dragFace($event, face.index)"
        />
      }
      @for (note of notes(); track note.id) {
        <g [attr.transform]="'translate(' + note.x + ',' + note.y + ')'" class="note">
          <path d="M0,0 L-6,-12 A7,7 0 1 1 6,-12 Z" />
          <text x="10" y="-14">{{ note.name }}</text>
        </g>
      }
    </svg>
  `,
  styleUrl: './overlay.scss',
  styles: `
    .box {
      fill: none;
      stroke: currentColor;
      stroke-width: 1.3;
    }
    .section {
      fill: rgb(200 69 47 / 8%);
      stroke: var(--pole);
      stroke-width: 1.2;
      stroke-dasharray: 5 4;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ModelOverlayComponent {
  private readonly look = inject(LookStore);
  private readonly store = inject(JobStore);
  private readonly cameras = inject(ViewCameras);
  protected readonly notes = notesIn('model');

  protected readonly boxPath = computed(() => {
    const box = this.look.box();
    return box && this.edgesOf(cornersOf(box));
  });

  protected readonly faces = computed(() => {
    const box = this.look.box();
    if (!box) return [];
    return FACE_NAMES.flatMap((name, index) => {
      const at = this.cameras.project('model', faceMiddle(box, index));
      return at ? [{ name, index, at }] : [];
    });
  });

  /** The section's slab, from the lowest to the highest of the land. */
  protected readonly sectionPath = computed(() => {
    const camera = this.cameras.section();
    if (!camera) return undefined;
    const [low, high] = rangeOver(this.store.inSight().map(({ source }) => source.elevationRange));
    const [ox, oy] = this.cameras.origin();
    const { ax, ay, bx, by, depth } = camera;
    const length = Math.hypot(bx - ax, by - ay) || 1;
    const n = [(-(by - ay) / length) * (depth / 2), ((bx - ax) / length) * (depth / 2)] as const;
    const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k): Place3 => {
      const [x, y] = k & 1 ? [bx, by] : [ax, ay];
      const side = k & 2 ? 1 : -1;
      return [x + side * n[0] + ox, y + side * n[1] + oy, k & 4 ? high : low];
    });
    return this.edgesOf(corners);
  });

  private edgesOf(corners: readonly Place3[]): string | undefined {
    const at = corners.map((corner) => this.cameras.project('model', corner));
    if (at.some((pixel) => !pixel)) return undefined;
    return EDGES.map(([a, b]) => `M${at[a]!.map(round).join()}L${at[b]!.map(round).join()}`).join('');
  }

  protected dragFace(event: PointerEvent, index: number): void {
    const start = this.look.box();
    if (!start) return;
    const axis = index >> 1;
    const isUpper = (index & 1) === 1;
    const middle = faceMiddle(start, index);
    const step = this.cameras.unitsPerPixel('model') * 20;
    const beside = middle.map((v, k) => (k === axis ? v + step : v)) as unknown as Place3;
    const [from, to] = [this.cameras.project('model', middle), this.cameras.project('model', beside)];
    if (!from || !to) return;
    const [ux, uy] = [to[0] - from[0], to[1] - from[1]];
    const squared = ux * ux + uy * uy;
    if (squared < 1) return;
    dragHandle(event, (dx, dy) => {
      const by = ((dx * ux + dy * uy) / squared) * step;
      const end = isUpper ? 'max' : 'min';
      const moved = start[end][axis]! + by;
      const other = start[isUpper ? 'min' : 'max'][axis]!;
      // A face stops short of the one across.
      const value = isUpper ? Math.max(moved, other + step / 20) : Math.min(moved, other - step / 20);
      this.look.box.set({ ...start, [end]: start[end].map((v, k) => (k === axis ? value : v)) as unknown as Place3 });
    });
  }
}

function round(value: number): number {
  return Math.round(value * 10) / 10;
}

function cornersOf({ min, max }: Box): Place3[] {
  return [0, 1, 2, 3, 4, 5, 6, 7].map((k) => [
    k & 1 ? max[0] : min[0],
    k & 2 ? max[1] : min[1],
    k & 4 ? max[2] : min[2],
  ]);
}

function faceMiddle({ min, max }: Box, index: number): Place3 {
  const axis = index >> 1;
  return [0, 1, 2].map((k) =>
    k === axis ? ((index & 1) === 1 ? max : min)[k]! : (min[k]! + max[k]!) / 2,
  ) as unknown as Place3;
}
