import type { LengthUnit } from '@pampero/core/geodesy';
import { LEVEL_RULES } from '@pampero/core/designs';
import { z } from 'zod';
import { choice, elevation, figure, lengthIn, lineKey, one, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const designEarthwork = {
  id: 'design-earthwork',
  stage: 'terrain',
  title: 'Design a bank or a pad',
  does: 'A closed line is the edge of a pad, an open one the middle of a bank or road. Side slopes run from it until they meet the ground.',
  method:
    'Slopes square to the edge, round at outer corners; exact where they meet the triangles of the ground and each other.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        along: one('lines', { label: 'Line', help: 'The code of the line it is made from.' }),
        key: lineKey(),
        surfaceId: one('surface', { label: 'Ground', help: 'The surface that the slopes run down or up to.' }),
        crestWidth: length({
          label: 'Crest width',
          help: 'Of a bank or road along an open line. A pad has none.',
          metres: { default: 4, min: 0.1, max: 500 },
        }),
        levels: choice(LEVEL_RULES, {
          default: 'drawn',
          label: 'Elevations',
          help: 'Those the line was drawn with, one level, or a grade from its beginning.',
          choices: { drawn: 'of the line', level: 'one level', grade: 'a grade' },
        }),
        raise: length({
          label: 'Raise by',
          help: 'Added to the line’s own elevations. Negative lowers it.',
          metres: { default: 0, min: -100, max: 100 },
          appliesTo: { name: 'levels', is: 'drawn' },
        }),
        level: elevation({
          label: 'Level',
          help: 'An elevation. Of a grade, the one at the beginning of the line.',
          appliesTo: { name: 'levels', is: ['level', 'grade'] },
        }),
        grade: figure({
          default: 0,
          min: -100,
          max: 100,
          label: 'Grade, %',
          help: 'Rise for 100 of run along the line.',
          appliesTo: { name: 'levels', is: 'grade' },
        }),
        fillSlope: figure({
          default: 2,
          min: 0.1,
          max: 50,
          label: 'Slope in fill, 1 in',
          help: 'Run for one of rise, where earth is brought.',
        }),
        cutSlope: figure({
          default: 2,
          min: 0.1,
          max: 50,
          label: 'Slope in cut, 1 in',
          help: 'Run for one of rise, where earth is dug away.',
        }),
        crossfall: figure({
          default: 0,
          min: 0,
          max: 20,
          label: 'Crossfall, %',
          help: 'How much the crest falls from its middle to both edges.',
          isAdvanced: true,
        }),
        step: length({
          label: 'Slope line spacing',
          help: 'Along the edge. Closer follows rough ground better.',
          metres: { default: 1, min: 0.1, max: 100 },
          isAdvanced: true,
        }),
        reach: length({
          label: 'Longest slope',
          help: 'In plan. A slope that has not met the ground by then ends there, and is counted.',
          metres: { default: 100, min: 1, max: 2000 },
          isAdvanced: true,
        }),
        name: productName('What this alternative is called.'),
      })
      .refine(({ levels, level }) => levels === 'drawn' || level !== undefined, {
        path: ['level'],
        message: `Type the level, in ${unit === 'metre' ? 'metres' : 'feet'}.`,
      });
  },
} as const satisfies OperationDescription;
export type DesignEarthworkParameters = z.output<ReturnType<typeof designEarthwork.parameters>>;
