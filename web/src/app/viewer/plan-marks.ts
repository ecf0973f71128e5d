import { Injectable } from '@angular/core';
import { NamedSets } from './named-sets';

/** Something pointed at in Plan: an area outlined, a dot, or a ring about a place. */
export interface PlanMark {
  readonly key: string;
  readonly kind: 'area' | 'dot' | 'ring';
  readonly easting: number;
  readonly northing: number;
  readonly outline?: readonly (readonly [number, number])[];
}

/** Marks that stages put over Plan. */
@Injectable()
export class PlanMarks extends NamedSets<PlanMark> {}
