import type { Cloud } from '@pampero/contract';
import { KNOWN_DIMENSIONS, type ExtraDimension } from '@pampero/core/formats/las';
import type { ColumnName } from '@pampero/core/cloud';

/** What the `facts` column of a cloud holds: the resource's own fields, and what only the server needs. */
export interface CloudFacts {
  readonly bounds: Cloud['bounds'];
  readonly quantisation: Cloud['quantisation'];
  readonly columns: Cloud['columns'];
  readonly intensityRange: Cloud['intensityRange'];
  readonly source: Cloud['source'];
  readonly warnings: Cloud['warnings'];
  /** Columns packed in `node_attributes`, in their order. */
  readonly attributeNames: readonly ColumnName[];
  /** The octree's root, in coordinates; missing in clouds of the first job files. */
  readonly cube?: { readonly low: readonly [number, number, number]; readonly side: number };
  /** Where in the extra bytes the source says how sure it is of a point. */
  readonly confidence?: ExtraDimension;
  /** ... and the standard deviation of its elevation. */
  readonly accuracy?: ExtraDimension;
  readonly isStandardGpsTime: boolean;
  readonly wkt?: string;
  /** Records of the source that are handed on, bodies in base 64. */
  readonly records: readonly {
    readonly userId: string;
    readonly recordId: number;
    readonly description: string;
    readonly data: string;
  }[];
}

/** Attributes in the extra bytes that are made use of, by what they tell. */
export function knownOf(facts: CloudFacts): Record<string, ExtraDimension> {
  return Object.fromEntries(
    KNOWN_DIMENSIONS.flatMap((name) => {
      const dimension = facts[name];
      return dimension ? [[name, dimension]] : [];
    }),
  );
}
