import type { SelectionCount } from '@pampero/contract';
import type { Selection } from '@pampero/core/selection';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { replaceMarks } from '../../store/kept-marks.js';
import { classNames, readJobClasses } from '../../store/pin-repository.js';
import type { MarkChange } from '../../tasks/selection-tasks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { changeSelection } from '../../passes/select-points.js';

/** A change of class or flags of the selected points. */
export function markWork(
  pool: TaskPool,
  selection: Selection,
  change: MarkChange,
  said: (count: string, nameOf: (code: number) => string) => string,
): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const nameOf = classNames(await readJobClasses(job.read));
    const { changes, before } = await changeSelection(pool, job, selection, change, signal, (share) =>
      report(0.9 * share, 'Finding the points'),
    );
    if (before.points === 0)
      throw new PamperoError('nothing-selected', {
        what: 'Nothing was changed. No visible point of the selection needs it.',
        fix: 'Check that their class is shown, and that they are not set like this already.',
      });
    return {
      outcome: `${said(points(before.points), nameOf)}; before: ${classList(before, nameOf)}`,
      figures: figuresOf(before, nameOf),
      store: async (models) => {
        const effects = [];
        for (const [cloudId, marks] of changes) effects.push(await replaceMarks(models, historyId, cloudId, marks));
        return { effects };
      },
    };
  };
}

const points = (count: number): string => formatCounted(count, 'point');

function byCount({ classCounts }: SelectionCount): [number, number][] {
  return Object.entries(classCounts)
    .map(([code, count]): [number, number] => [Number(code), count])
    .sort(([, a], [, b]) => b - a);
}

function classList(count: SelectionCount, nameOf: (code: number) => string): string {
  const list = byCount(count).map(([code, n]) => `${formatCount(n)} ${nameOf(code)}`);
  return list.length <= 3 ? list.join(', ') : `${list.slice(0, 3).join(', ')} and ${list.length - 3} classes more`;
}

function figuresOf(count: SelectionCount, nameOf: (code: number) => string) {
  return [
    { label: 'Points', value: count.points, quantity: 'count' as const },
    ...byCount(count).map(([code, n]) => ({
      label: `From ${code} ${nameOf(code)}`,
      value: n,
      quantity: 'count' as const,
    })),
  ];
}
