import type { Type } from '@angular/core';
import type { OperationId, Run, Stage } from '@pampero/contract';
import type { JobStore } from '../state/job-store';
import type { LayerStore } from '../state/layer-store';
import type { LookStore } from '../state/look-store';

/** What a run's end may show of itself: a result on a hidden layer would seem not to exist. */
export interface Shown {
  readonly store: JobStore;
  readonly layers: LayerStore;
  readonly look: LookStore;
}

/** What a stage brings to the workbench. */
export interface StageHome {
  readonly id: Stage;
  /** Its sheet, loaded when it is first gone to. */
  readonly sheet: () => Promise<Type<unknown>>;
  /** Kept while the job is open, whichever sheet is shown: state, tools, keys, marks. */
  readonly services?: readonly Type<unknown>[];
  /** What the end of its operations brings into view. */
  readonly shows?: Partial<Record<OperationId, (shown: Shown, run: Run) => void>>;
}
