import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import {
  figureOrNone,
  flag,
  lengthIn,
  lengthOrNone,
  meta,
  one,
  oneOrNone,
  productName,
} from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

const place = z.tuple([z.number(), z.number()]);
const smallest = { min: 0, max: 10_000 };

export const maskByColour = {
  id: 'mask-by-colour',
  stage: 'classify',
  title: 'Mask by colour',
  does: 'Marks the land that looks like places picked on a picture: water, grass, seal, shadow. Points under the mask are then classed or withheld.',
  method:
    'Colour difference in CIE L*a*b* (CIE 15:2004); the tolerance at which the region is most stable (after Matas et al. 2002).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    const optional = lengthOrNone(unit);
    return z
      .strictObject({
        name: productName('What the mask is called: “Lagoon”, “Mown grass”.'),
        picture: one('picture', { label: 'Picture', help: 'Where places are picked, and colours compared.' }),
        places: z
          .array(place)
          .max(200)
          .default([])
          .meta(meta({ label: 'Places', help: 'Eastings and northings that were picked.', isHidden: true })),
        like: oneOrNone('mask', {
          label: 'Colours of',
          help: 'A mask whose colours are looked for too, for instance on another picture.',
          none: 'the places picked',
          isAdvanced: true,
        }),
        tolerance: figureOrNone({
          min: 0.5,
          max: 100,
          label: 'Colour tolerance',
          help: 'How far a colour may be from one that was picked; 2 is hardly seen, 100 is black against white. Left out: where the edge of what was picked is plainest.',
        }),
        everywhere: flag({
          default: false,
          label: 'Pieces elsewhere too',
          help: 'Takes all land that looks alike. Otherwise only what hangs together with a place that was picked.',
        }),
        soften: optional({
          label: 'Soften',
          help: 'Specks and ragged edges narrower than this are evened out. Left out: four pixels.',
          metres: { min: 0, max: 100 },
        }),
        smallestHole: length({
          label: 'Fill holes under',
          help: 'Side of a square: holes that cover less are filled.',
          metres: { default: 3, ...smallest },
        }),
        smallestPiece: length({
          label: 'Drop pieces under',
          help: 'Side of a square: pieces that cover less are left out, where pieces elsewhere are taken.',
          metres: { default: 3, ...smallest },
        }),
        grow: length({
          label: 'Grow by',
          help: 'Outwards all round. Negative shrinks it.',
          metres: { default: 0, min: -100, max: 100 },
        }),
        within: oneOrNone('lines', {
          label: 'Within',
          help: 'A code with a closed line that the mask stays within.',
          none: 'the whole picture',
          isAdvanced: true,
        }),
        cell: optional({
          label: 'Cell size',
          help: 'Left out: that of the picture, coarser where it has more than 25 million pixels.',
          metres: { min: 0.001, max: 100 },
          isAdvanced: true,
        }),
        painted: z
          .array(
            z.strictObject({
              path: z.array(place).min(1).max(2000),
              radius: z.number().positive().max(100_000),
              adds: z.boolean(),
            }),
          )
          .max(2000)
          .default([])
          .meta(meta({ label: 'Painted', help: 'What was added and taken off by hand.', isHidden: true })),
      })
      .refine(
        ({ places, like, painted }) => places.length > 0 || like !== undefined || painted.some(({ adds }) => adds),
        {
          message: 'Click at least one place in Plan that looks as the mask should.',
          path: ['places'],
        },
      );
  },
} as const satisfies OperationDescription;
export type MaskByColourParameters = z.output<ReturnType<typeof maskByColour.parameters>>;
