import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Cloud } from '@pampero/contract';

type Bounds = Cloud['bounds'];
const WIDE = 220;
const HIGH = 120;
const RIM = 8;

/** Where a file would lie, drawn on where the job's clouds lie. */
@Component({
  selector: 'pam-extent-map',
  template: `
    <svg viewBox="0 0 220 120" role="img" [attr.aria-label]="title()">
      @for (box of boxes(); track $index) {
        <rect
          [attr.x]="box.x"
          [attr.y]="box.y"
          [attr.width]="box.width"
          [attr.height]="box.height"
          [class.new]="box.isNew"
        />
      }
    </svg>
    <span class="key"
      ><i></i>this file
      @if (clouds().length > 0) {
        <i class="there"></i>clouds of the job
      }
    </span>
  `,
  styles: `
    :host {
      display: block;
    }
    svg {
      display: block;
      width: 100%;
      border: 1px solid var(--rule);
      border-radius: 4px;
      background: var(--paper);
    }
    rect {
      fill: rgb(85 98 107 / 0.12);
      stroke: var(--ink-3);
      stroke-width: 1;
    }
    rect.new {
      fill: rgb(14 107 120 / 0.18);
      stroke: var(--accent);
      stroke-width: 1.6;
    }
    .key {
      font-size: 11.5px;
      color: var(--ink-2);
    }
    i {
      display: inline-block;
      width: 10px;
      height: 8px;
      margin: 0 4px 0 0;
      border: 1.5px solid var(--accent);
    }
    i.there {
      margin-left: 10px;
      border: 1px solid var(--ink-3);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ExtentMapComponent {
  readonly file = input.required<Bounds>();
  readonly clouds = input.required<readonly Bounds[]>();

  protected readonly title = computed(() =>
    this.clouds().length > 0 ? 'The file’s extent on that of the job’s clouds' : 'The file’s extent',
  );
  protected readonly boxes = computed(() => {
    const all = [...this.clouds(), this.file()];
    const [west, south] = [0, 1].map((axis) => Math.min(...all.map((b) => b.min[axis]!))) as [number, number];
    const [east, north] = [0, 1].map((axis) => Math.max(...all.map((b) => b.max[axis]!))) as [number, number];
    const scale = Math.min(
      (WIDE - 2 * RIM) / Math.max(east - west, 1e-9),
      (HIGH - 2 * RIM) / Math.max(north - south, 1e-9),
    );
    const [left, top] = [(WIDE - (east - west) * scale) / 2, (HIGH - (north - south) * scale) / 2];
    return all.map(({ min, max }, i) => ({
      x: left + (min[0] - west) * scale,
      y: top + (north - max[1]) * scale,
      // Never so small that it is not seen.
      width: Math.max(3, (max[0] - min[0]) * scale),
      height: Math.max(3, (max[1] - min[1]) * scale),
      isNew: i === all.length - 1,
    }));
  });
}
