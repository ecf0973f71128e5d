import { inject, Injectable } from '@angular/core';
import type { PickedPoint } from '../drawing/viewer-questions';
import type { ViewId } from '../drawing/view-id';
import type { ToolId } from '../state/tool-id';
import { drawnView } from '../viewer/drawn-view';
import type { ToolEvent } from '../viewer/pointer-tool';
import { ViewCameras } from '../viewer/view-cameras';
import { cornersOf } from './drawn-corners';
import { PatchStore } from './patch-store';
import { SelectionStore, type DrawnAs } from './selection-store';

type Modifiers = Pick<ToolEvent, 'shift' | 'alt'>;

/** Hands what a tool drew in a view to the selection. */
@Injectable()
export class SelectionPen {
  private readonly cameras = inject(ViewCameras);
  private readonly selection = inject(SelectionStore);
  private readonly patches = inject(PatchStore);

  touch(point: PickedPoint, keys: Modifiers): void {
    this.patches.touch(point, this.drawnAs(keys));
  }

  /** What makes no shape selects nothing: fewer than three corners but with the brush. */
  draw(tool: ToolId, view: ViewId, pixels: readonly (readonly [number, number])[], keys: Modifiers): void {
    const isStroke = tool === 'brush';
    const corners = isStroke ? pixels : cornersOf(tool, pixels, this.cameras.places()[view].height);
    if (!isStroke && corners.length < 3) return;
    const { view: drawn, shift } = drawnView(this.cameras, view, corners);
    const shifted = corners.map(([x, y]) => [x + shift[0], y + shift[1]] as const);
    const options = { as: this.drawnAs(keys), seenOnly: view === 'model' && this.selection.seenOnly() };
    this.selection.draw(
      isStroke
        ? { kind: 'stroke', view: drawn, path: shifted, radius: this.selection.brushRadius() }
        : { kind: 'outline', view: drawn, corners: shifted },
      options,
    );
  }

  /** By `[` and `]`. */
  changeBrush(factor: number): void {
    this.selection.brushRadius.update((radius) => Math.max(2, Math.min(200, radius * factor)));
  }

  private drawnAs({ shift, alt }: Modifiers): DrawnAs {
    return shift ? 'add' : alt ? 'take' : this.selection.drawnAs();
  }
}
