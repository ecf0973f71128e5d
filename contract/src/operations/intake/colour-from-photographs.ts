import { z } from 'zod';
import { figure, flag, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { colouredPoints } from './coloured-points.js';

export const colourFromPhotographs = {
  id: 'colour-from-photographs',
  stage: 'intake',
  title: 'Colour from photographs',
  does: 'Gives each point the colour of the photograph that sees it best, with nothing standing between. Undone in one step.',
  parameters: () =>
    z.strictObject({
      photographs: one('photographs', { label: 'Photographs', help: 'Where colours are taken from.' }),
      cloud: one('cloud', { label: 'Cloud', help: 'What is coloured.' }),
      ...colouredPoints,
      evenSeams: flag({
        default: true,
        label: 'Even out light and dark',
        help: 'Makes photographs lighter or darker so that neighbours agree where both see the same ground.',
      }),
      leastAgreement: figure({
        default: 0.3,
        min: -1,
        max: 1,
        label: 'Least agreement',
        help: 'Correlation of what two photographs show of the same points. Below it nothing is coloured: the angles are read wrongly, or the camera is another.',
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type ColourFromPhotographsParameters = z.output<ReturnType<typeof colourFromPhotographs.parameters>>;
