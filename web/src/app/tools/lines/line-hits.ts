import { inject, Injectable } from '@angular/core';
import { cornerAt, distanceToLeg, legCount, nearestOnLeg } from '@pampero/core/lines';
import { LineStore, type CodedLine } from '../../state/line-store';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { ViewCameras } from '../../viewer/view-cameras';
import { LinePlaces } from './line-places';

/** A corner of a line. */
export interface CornerRef {
  readonly key: number;
  readonly corner: number;
}

/** A place on a line: its leg, and how far along it, 0 to 1. */
export interface LineHit {
  readonly line: CodedLine;
  readonly leg: number;
  readonly share: number;
}

type Spot = Pick<ToolEvent, 'view' | 'px' | 'py'>;

/** Pixels within which a line or a corner is meant. */
const NEAR = 8;

/** Which line or corner lies under a pixel. */
@Injectable()
export class LineHits {
  private readonly lines = inject(LineStore);
  private readonly cameras = inject(ViewCameras);
  private readonly places = inject(LinePlaces);

  /** In Plan by the index of lines, elsewhere by where their legs are seen. */
  lineAt(spot: Spot): LineHit | undefined {
    return spot.view === 'plan' ? this.inPlan(spot) : this.asSeen(spot);
  }

  /** The corner of one of some lines. */
  cornerUnder({ view, px, py }: Spot, among: readonly CodedLine[]): CornerRef | undefined {
    let best: CornerRef | undefined;
    let least = NEAR;
    for (const line of among)
      for (let corner = 0; corner < line.easting.length; corner++) {
        const at = this.places.pixelOf(view, cornerAt(line, corner));
        const distance = at ? Math.hypot(at[0] - px, at[1] - py) : Infinity;
        if (distance < least) [best, least] = [{ key: line.key, corner }, distance];
      }
    return best;
  }

  private inPlan({ view, px, py }: Spot): LineHit | undefined {
    const place = this.places.planPlace(view, px, py);
    if (!place) return undefined;
    const { e, n } = place;
    const all = this.lines.shownLines();
    const reach = NEAR * this.cameras.plan().unitsPerPixel;
    let best: { line: CodedLine; leg: number; distance: number } | undefined;
    for (const { line: at, leg } of this.lines.index().near(e, n, reach)) {
      const line = all[at]!;
      const distance = distanceToLeg(line, leg, e, n);
      if (distance <= reach && (!best || distance < best.distance)) best = { line, leg, distance };
    }
    return best && { line: best.line, leg: best.leg, share: nearestOnLeg(best.line, best.leg, e, n).share };
  }

  private asSeen({ view, px, py }: Spot): LineHit | undefined {
    let best: LineHit | undefined;
    let least = NEAR;
    for (const line of this.lines.shownLines())
      for (let leg = 0; leg < legCount(line); leg++) {
        const [a, b] = [leg, (leg + 1) % line.easting.length].map((k) => this.places.pixelOf(view, cornerAt(line, k)));
        if (!a || !b) continue;
        const [ux, uy] = [b[0] - a[0], b[1] - a[1]];
        const square = ux * ux + uy * uy;
        const share = square > 0 ? Math.max(0, Math.min(1, ((px - a[0]) * ux + (py - a[1]) * uy) / square)) : 0;
        const distance = Math.hypot(px - a[0] - share * ux, py - a[1] - share * uy);
        if (distance < least) [best, least] = [{ line, leg, share }, distance];
      }
    return best;
  }
}
