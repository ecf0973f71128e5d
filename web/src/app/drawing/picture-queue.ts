import type { ViewerRequest } from './drawing-protocol';
import type { ViewId } from './view-id';
import { nextTurn } from './next-turn';

export type DrawRequest = Extract<ViewerRequest, { kind: 'draw' }>;

/** Draws one picture; `isOutdated` lets messages in and says whether a newer picture of the view is wanted. */
export type DrawPicture = (request: DrawRequest, isOutdated: () => Promise<boolean>) => Promise<void>;

/** How long arrivals are gathered: a picture a node would draw everything far too often. */
const GATHER_MS = 120;

interface QueuedView {
  pending: DrawRequest | undefined;
  /** The last request, to draw again when more has arrived. */
  last: DrawRequest | undefined;
  isDrawing: boolean;
}

/** When each view is drawn: one picture of a view at a time, the newest request first, older ones given up. */
export class PictureQueue {
  private readonly views = new Map<ViewId, QueuedView>();
  private isGathering = false;
  /** Until points were drawn once, whatever arrives is shown at once. */
  isFirst = true;

  constructor(
    private readonly draw: DrawPicture,
    private readonly trouble: (message: string) => void,
  ) {}

  ask(request: DrawRequest): void {
    const view = this.view(request.view);
    view.pending = request;
    if (!view.isDrawing) void this.drawPending(view);
  }

  drop(id: ViewId): void {
    this.views.delete(id);
  }

  /** Every view again, in full. */
  all(): void {
    this.again(false);
  }

  /** At once with fewer points, as while the view moves, then in full. */
  quickly(): void {
    this.again(true);
    this.soon();
  }

  /** Every view again, once a little more has arrived. */
  soon(): void {
    if (this.isFirst) {
      this.all();
      return;
    }
    if (this.isGathering) return;
    this.isGathering = true;
    setTimeout(() => {
      this.isGathering = false;
      this.all();
    }, GATHER_MS);
  }

  private again(isMoving: boolean): void {
    for (const view of this.views.values()) {
      if (view.last && !view.pending) view.pending = { ...view.last, isMoving };
      if (!view.isDrawing) void this.drawPending(view);
    }
  }

  private view(id: ViewId): QueuedView {
    let view = this.views.get(id);
    if (!view) this.views.set(id, (view = { pending: undefined, last: undefined, isDrawing: false }));
    return view;
  }

  private async drawPending(view: QueuedView): Promise<void> {
    view.isDrawing = true;
    const isOutdated = async (): Promise<boolean> => {
      await nextTurn();
      return view.pending !== undefined;
    };
    try {
      while (view.pending) {
        const request = view.pending;
        view.pending = undefined;
        view.last = request;
        await this.draw(request, isOutdated);
      }
    } catch (error) {
      // One picture that fails must not be the last.
      this.trouble(error instanceof Error ? error.message : String(error));
    } finally {
      view.isDrawing = false;
    }
  }
}
