import { z } from 'zod';
import { flag, meta } from '../../parameters/index.js';

/** Which points of a cloud get a colour, wherever it comes from. */
export const colouredPoints = {
  classes: z
    .array(z.int().min(0).max(255))
    .default([])
    .meta(
      meta({
        label: 'Classes',
        help: 'Only points of these are coloured. None chosen: all are.',
        quantity: 'class-list',
        isAdvanced: true,
      }),
    ),
  withWithheld: flag({
    default: false,
    label: 'Withheld points too',
    help: 'Colours points that are withheld as well.',
    isAdvanced: true,
  }),
};
