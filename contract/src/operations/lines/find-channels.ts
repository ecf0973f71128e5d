import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { figure, lengthIn, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findChannels = {
  id: 'find-channels',
  stage: 'lines',
  title: 'Find channels',
  does: 'Finds where water would run and gather over a surface, as lines down the water, and lists the sinks.',
  method:
    'Pits filled by priority-flood: Barnes et al. 2014. Flow to the steepest of eight neighbours: O’Callaghan and Mark 1984.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      surfaceId: one('surface', { label: 'Surface', help: 'The surface that water runs over.' }),
      cell: length({
        label: 'Cell size',
        help: 'Of the grid that flow is reckoned on.',
        metres: { default: 1, min: 0.05, max: 1000 },
      }),
      catchment: figure({
        default: 2000,
        min: 1,
        max: 1e9,
        label: 'Catchment from',
        help: 'A channel begins where so much land drains through it, in square units of the job.',
      }),
      sinkDepth: length({
        label: 'List sinks deeper than',
        help: 'Pits that water fills before it runs on.',
        metres: { default: 0.2, min: 0.001, max: 1000 },
      }),
    });
  },
} as const satisfies OperationDescription;
export type FindChannelsParameters = z.output<ReturnType<typeof findChannels.parameters>>;
