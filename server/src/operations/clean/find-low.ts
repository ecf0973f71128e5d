import { findLow } from '@pampero/contract';
import { proposeLowPoints } from '@pampero/core/cleaning';
import { proposedFor } from '../proposed-for.js';
import { cleaningOperation } from './clean-cloud.js';

export const operation = cleaningOperation(findLow, 'low', proposedFor(proposeLowPoints));
