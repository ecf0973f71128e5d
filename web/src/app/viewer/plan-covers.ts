import { Injectable } from '@angular/core';
import type { MaskRingResource } from '@pampero/contract';
import { NamedSets } from './named-sets';

/** Land that something covers, drawn over Plan half seen through. */
export interface PlanCover {
  readonly key: string;
  readonly look: 'kept' | 'preview';
  readonly rings: readonly MaskRingResource[];
}

/** Covers that stages put over Plan. */
@Injectable()
export class PlanCovers extends NamedSets<PlanCover> {}
