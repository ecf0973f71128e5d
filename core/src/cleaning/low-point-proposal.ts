/** What a cloud tells before its low points are looked for. */
export interface LowPointEvidence {
  /** Share of last returns of a pulse with several. */
  readonly manyReturns: number;
  readonly hasColour: boolean;
}

/** Wrong matches of photographs lie under the ground in clusters as dense as the cloud. Tuned on simulated scenes. */
const CLUSTER_OF_PHOTOGRAPHS = 20;
/** Multipath of a scanner: a few points. */
const CLUSTER_OF_SCANNER = 8;
/** Where much of the land is under trees, a few points of ground seen through a gap look like a cluster under the land. */
const CLUSTER_UNDER_TREES = 3;
const MANY_RETURNS = 0.1;

/** How many low points lie together, by what the cloud was made with (our own). */
export function proposeLowPoints({ manyReturns, hasColour }: LowPointEvidence): {
  readonly settings: { readonly largestCluster: number };
  readonly reasons: readonly string[];
} {
  const propose = (largestCluster: number, why: string): ReturnType<typeof proposeLowPoints> => ({
    settings: { largestCluster },
    reasons: [`${why}: clusters of up to ${largestCluster} points.`],
  });
  if (manyReturns < 0.001 && hasColour)
    return propose(
      CLUSTER_OF_PHOTOGRAPHS,
      'One return a point and colours: taken from photographs, whose wrong matches come in clusters',
    );
  if (manyReturns > MANY_RETURNS)
    return propose(
      CLUSTER_UNDER_TREES,
      'Many pulses have several returns: ground seen through gaps in trees must stay',
    );
  return propose(
    CLUSTER_OF_SCANNER,
    'Few pulses have several returns: false points of a scanner lie alone or a few together',
  );
}
