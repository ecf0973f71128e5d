import type { ViewId } from '../drawing/view-id';
import type { ToolEvent } from '../viewer/pointer-tool';

/** What a tool that keeps its own state does with pointer and keys. */
export interface ToolHandler {
  down?(event: ToolEvent): void;
  move?(event: ToolEvent): void;
  up?(event: ToolEvent): void;
  click?(event: ToolEvent): void;
  doubleClick?(event: ToolEvent): void;
  /** False where the key is not the tool's; arrows and clicks by keys are told as those of a pointer. */
  keyed?(event: KeyboardEvent, view: ViewId): boolean;
  /** Another tool was taken. */
  left?(): void;
}
