import { findIsolated } from '@pampero/contract';
import { cleaningOperation } from './clean-cloud.js';

export const operation = cleaningOperation(findIsolated, 'isolated');
