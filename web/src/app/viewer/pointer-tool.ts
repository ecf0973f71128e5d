import type { Signal } from '@angular/core';
import type { ViewId } from '../drawing/view-id';

export interface ToolEvent {
  readonly view: ViewId;
  readonly px: number;
  readonly py: number;
  /** Shift adds, Alt takes away, whatever is set. */
  readonly shift: boolean;
  readonly alt: boolean;
}

/** The tool in hand as the views know it: pointer and keys go to it first. What tools there are is not known here. */
export abstract class PointerTool {
  /** The view that is drawn in. */
  abstract readonly view: Signal<ViewId | undefined>;
  /** Places so far, held so that they stay put when the view moves. */
  abstract readonly held: Signal<readonly (readonly [number, number])[]>;
  /** Where the pointer, or the keys' own cross, is: pixels of a view. */
  abstract readonly at: Signal<
    { readonly view: ViewId; readonly px: number; readonly py: number; readonly byKeys: boolean } | undefined
  >;
  abstract worksIn(view: ViewId): boolean;
  abstract down(event: ToolEvent): void;
  abstract move(event: ToolEvent): void;
  abstract up(event: ToolEvent): void;
  abstract doubleClick(event: ToolEvent): void;
  /** False where the key is not the tool's. */
  abstract keyed(event: KeyboardEvent, view: ViewId): boolean;
}
