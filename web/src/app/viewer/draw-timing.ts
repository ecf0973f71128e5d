import type { ViewId } from '../drawing/view-id';

/** Still this long after the last move, and the full picture is drawn. */
const STILL_AFTER_MS = 160;

/** When views are drawn: once a frame at most, quickly while they move, in full once they are still. */
export class DrawTiming {
  private readonly dirty = new Map<ViewId, boolean>();
  private isRequested = false;
  private still: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly draw: (view: ViewId, isMoving: boolean) => void) {}

  moving(views: readonly ViewId[]): void {
    for (const view of views) this.request(view, true);
    clearTimeout(this.still);
    this.still = setTimeout(() => this.changed(views), STILL_AFTER_MS);
  }

  changed(views: readonly ViewId[]): void {
    for (const view of views) this.request(view, false);
  }

  stop(): void {
    clearTimeout(this.still);
    this.dirty.clear();
  }

  private request(view: ViewId, isMoving: boolean): void {
    this.dirty.set(view, isMoving);
    if (this.isRequested) return;
    this.isRequested = true;
    requestAnimationFrame(() => {
      this.isRequested = false;
      for (const [dirtyView, moves] of this.dirty) this.draw(dirtyView, moves);
      this.dirty.clear();
    });
  }
}
