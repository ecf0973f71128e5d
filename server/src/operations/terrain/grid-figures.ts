import type { Figure } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { GridFacts } from '../../tasks/grid-tasks.js';
import { formatCount } from '@pampero/core/wording';

/** How large a grid is, in words. */
export function gridSize({ columns, rows, cell }: GridFacts, unit: LengthUnit): string {
  return `${formatCount(columns)} by ${formatCount(rows)} cells of ${Number(cell.toPrecision(6))} ${lengthUnits[unit].short}`;
}

export function gridFigures({ columns, rows, lowest, highest, filled }: GridFacts): Figure[] {
  const cells = columns * rows;
  return [
    { label: 'Cells', value: cells, quantity: 'count' },
    { label: 'With a value', value: filled / cells, quantity: 'share' },
    { label: 'Lowest', value: lowest, quantity: 'length' },
    { label: 'Highest', value: highest, quantity: 'length' },
  ];
}
