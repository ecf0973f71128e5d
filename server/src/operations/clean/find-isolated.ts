import { findIsolated } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { proposeIsolationIn } from '../../questions/isolation.js';
import { proposedBy } from '../proposed-for.js';
import { cleaningOperation } from './clean-cloud.js';

export const operation = cleaningOperation(
  findIsolated,
  'isolated',
  proposedBy(async (cloudId, { pool, file, unit }) => {
    const settings = await proposeIsolationIn(pool, file, cloudId);
    const { short } = lengthUnits[unit];
    return {
      settings,
      reasons: [
        `Search radius ${settings.radius} ${short}: what has fewer than ${settings.leastNeighbours} neighbours at it hardly gets any further out. At a smaller one thin branches and far walls are taken too.`,
      ],
    };
  }),
);
