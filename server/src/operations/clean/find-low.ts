import { findLow } from '@pampero/contract';
import { cleaningOperation } from './clean-cloud.js';

export const operation = cleaningOperation(findLow, 'low');
