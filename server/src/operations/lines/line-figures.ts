import type { Figure } from '@pampero/contract';
import { planLength, type LineShape } from '@pampero/core/lines';

/** What a surveyor asks first of lines that came or changed. */
export function lineFigures(shapes: readonly LineShape[]): Figure[] {
  const sum = (pick: (shape: LineShape) => number): number => shapes.reduce((total, shape) => total + pick(shape), 0);
  return [
    { label: 'Lines', value: shapes.length, quantity: 'count' },
    { label: 'Vertices', value: sum(({ easting }) => easting.length), quantity: 'count' },
    {
      label: 'Of them with elevation',
      value: sum(({ elevation }) => elevation.filter((z) => !Number.isNaN(z)).length),
      quantity: 'count',
    },
    { label: 'Length in plan', value: sum(planLength), quantity: 'length' },
  ];
}
