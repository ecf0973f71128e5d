import { z } from 'zod';
import { clouds } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const takeMarginClasses = {
  id: 'take-margin-classes',
  stage: 'classify',
  title: 'Take classes of the margin',
  does: 'Gives the points in the margin of this square the classes that the neighbouring squares gave them, so that surfaces, contours and grids meet at the edges.',
  method: 'The same points of the same file, by their coordinates.',
  parameters: () => z.strictObject({ clouds: clouds('The clouds whose margins are brought in line.') }),
} as const satisfies OperationDescription;
export type TakeMarginClassesParameters = z.output<ReturnType<typeof takeMarginClasses.parameters>>;
