import { PreparedSelection, type Selection, type Visible } from '@pampero/core/selection';
import type { OptimisticChange } from './drawing-protocol';
import type { NodeCache } from './node-cache';
import { asSelectable } from './point-cache';

/** Which of the points in memory are selected, and which are shown at all. */
export class DrawnSelection {
  private selection: Selection = [];

  constructor(private readonly cache: NodeCache) {}

  /** @returns whether any point may look otherwise now */
  select(selection: Selection): boolean {
    const wasEmpty = this.selection.length === 0;
    this.selection = selection;
    if (wasEmpty && selection.length === 0) return false;
    this.cache.setSelected(selection.length === 0 ? undefined : this.prepare(selection));
    return true;
  }

  show({ box, focus }: Visible): void {
    // Classes and withheld points are left out as points are coloured; only places are asked about here.
    const places: Visible = {
      hiddenClasses: [],
      withWithheld: true,
      ...(box && { box }),
      ...(focus && { focus }),
    };
    this.cache.setShown(
      box || focus ? this.prepare([{ how: 'add', shape: { kind: 'all' }, visible: places }]) : undefined,
    );
  }

  /** What the server was asked to do to the selected points, done to those in memory at once; they are selected no more. */
  change({ classCode, setFlags = 0, clearFlags = 0 }: OptimisticChange): void {
    this.selection = [];
    const changed = [...this.cache.all()].filter(({ selected }) => selected !== undefined);
    for (const { selected, classes, flags } of changed)
      for (let i = 0; i < selected!.length; i++) {
        if (selected![i] === 0) continue;
        if (classCode !== undefined) classes[i] = classCode;
        flags[i] = (flags[i]! | setFlags) & ~clearFlags;
      }
    this.cache.setSelected(undefined);
    for (const cached of changed) this.cache.remark(cached);
  }

  /** A selection made ready, with what lies in front found out; one that is none selects nothing. */
  private prepare(selection: Selection): PreparedSelection | undefined {
    try {
      const prepared = new PreparedSelection(selection);
      if (prepared.needsFronts)
        for (const cached of this.cache.all()) {
          const points = asSelectable(cached);
          if (prepared.reachesFronts(points.box, points.nodeId, points.cloudId)) prepared.addToFronts(points);
        }
      return prepared;
    } catch {
      return undefined;
    }
  }
}
