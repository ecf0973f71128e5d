import { inject, Injectable } from '@angular/core';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';
import { ViewCameras } from '../viewer/view-cameras';

type Place = readonly [number, number];

/** Pixels of Plan that the ends of a section lie apart at least. */
const LEAST_PIXELS = 3;

/** Lays the section between two places of Plan, in scene coordinates. */
@Injectable()
export class SectionPen {
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);

  /** The section as it goes while its second end follows the pointer. */
  follow(a: Place, b: Place): void {
    if (this.areApart(a, b)) this.set(a, b);
  }

  /** The section as it was drawn, framed afresh; the tool is put down. */
  lay(a: Place, b: Place): void {
    if (!this.areApart(a, b)) {
      this.store.say('Both ends of the section are at the same place. Draw it again.');
      return;
    }
    this.views.tool.set('look');
    this.cameras.forgetSection();
    this.set(a, b);
  }

  private areApart(a: Place, b: Place): boolean {
    return Math.hypot(a[0] - b[0], a[1] - b[1]) >= this.cameras.plan().unitsPerPixel * LEAST_PIXELS;
  }

  private set(a: Place, b: Place): void {
    const [ox, oy] = this.cameras.origin();
    this.views.section.set({ a: [a[0] + ox, a[1] + oy], b: [b[0] + ox, b[1] + oy] });
  }
}
