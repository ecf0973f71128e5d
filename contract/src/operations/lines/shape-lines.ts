import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { codeNameSchema } from '../../feature-codes.js';
import { any, choice, elevation, lengthIn, meta, oneOrNone } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const LINE_SHAPINGS = [
  'simplify',
  'smooth',
  'densify',
  'offset',
  'drape',
  'grade',
  'fill',
  'turn',
  'join',
] as const;
export type LineShaping = (typeof LINE_SHAPINGS)[number];

export const shapeLines = {
  id: 'shape-lines',
  stage: 'lines',
  title: 'Shape lines',
  does: 'Simplifies, smooths, densifies, offsets, drapes, grades, turns or joins lines, several at once.',
  method: 'Simplified after Douglas and Peucker 1973, in space; smoothed by parabolas at the corners.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    const of = (...is: LineShaping[]) => ({ appliesTo: { name: 'shaping', is } });
    return z.strictObject({
      shaping: choice(LINE_SHAPINGS, {
        default: 'simplify',
        label: 'Do',
        help: 'What becomes of the lines.',
        choices: {
          simplify: 'simplify',
          smooth: 'smooth',
          densify: 'add vertices',
          offset: 'offset to a side',
          drape: 'drape on a surface',
          grade: 'even grade',
          fill: 'fill in elevations',
          turn: 'reverse direction',
          join: 'join ends',
        },
      }),
      keys: z
        .array(z.int().positive())
        .max(50_000)
        .default([])
        .meta(meta({ label: 'Lines', help: 'Keys of the lines; none for all lines of the codes.', isHidden: true })),
      codes: any('lines', { label: 'Codes', help: 'All lines of these codes, where no lines are selected.' }),
      tolerance: length({
        label: 'Tolerance',
        help: 'How far the line may move, in plan and in height.',
        metres: { default: 0.05, min: 0.001, max: 1000 },
        ...of('simplify', 'smooth'),
      }),
      step: length({
        label: 'Vertex spacing at most',
        help: 'Legs that are longer get vertices.',
        metres: { default: 5, min: 0.01, max: 10_000 },
        ...of('densify'),
      }),
      distance: length({
        label: 'Distance to the right',
        help: 'Negative for the left, seen along the line.',
        metres: { default: 0.15, min: -1000, max: 1000 },
        ...of('offset'),
      }),
      rise: length({
        label: 'Height difference',
        help: 'Added to the elevations.',
        metres: { default: 0, min: -1000, max: 1000 },
        ...of('offset'),
      }),
      newCode: codeNameSchema
        .optional()
        .meta(meta({ label: 'Code of the new line', help: 'Left out: the code of the line it is made from.', quantity: 'name', ...of('offset') })), // prettier-ignore
      surfaceId: oneOrNone('surface', {
        label: 'Surface',
        help: 'The surface that the lines are laid on.',
        none: 'none chosen',
        ...of('drape'),
      }),
      from: elevation({ label: 'Elevation at the start', help: 'Left out: the one it has.', ...of('grade') }),
      to: elevation({ label: 'Elevation at the end', help: 'Left out: the one it has.', ...of('grade') }),
      gap: length({
        label: 'Gap at most',
        help: 'Ends of one code that are nearer to each other are joined.',
        metres: { default: 0.5, min: 0, max: 1000 },
        ...of('join'),
      }),
    });
  },
} as const satisfies OperationDescription;
export type ShapeLinesParameters = z.output<ReturnType<typeof shapeLines.parameters>>;
