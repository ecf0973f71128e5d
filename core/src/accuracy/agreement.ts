/** How two labellings of the same points agree, ground or not ground. */
export interface Agreement {
  /** Ground points rejected, share of all true ground (type I error). */
  readonly typeOne: number;
  /** Other points accepted, share of all that is not ground (type II error). */
  readonly typeTwo: number;
  /** Wrong points, share of all. */
  readonly total: number;
  /** Cohen's kappa. */
  readonly kappa: number;
}

/**
 * Errors of a ground filter against the truth: the figures of the ISPRS filter test (Sithole and Vosselman 2004,
 * "Experimental comparison of filter algorithms for bare-Earth extraction", ISPRS J. 59(1-2)), and Cohen's kappa (Cohen 1960,
 * "A coefficient of agreement for nominal scales").
 * @param counts - points that are ground in both, in truth only, in the result only, in neither
 */
export function agreementOf({
  both,
  truthOnly,
  resultOnly,
  neither,
}: {
  both: number;
  truthOnly: number;
  resultOnly: number;
  neither: number;
}): Agreement {
  const all = both + truthOnly + resultOnly + neither;
  const observed = (both + neither) / all;
  const byChance =
    ((both + truthOnly) * (both + resultOnly) + (neither + resultOnly) * (neither + truthOnly)) / (all * all);
  return {
    typeOne: truthOnly / (both + truthOnly),
    typeTwo: resultOnly / (resultOnly + neither),
    total: (truthOnly + resultOnly) / all,
    kappa: (observed - byChance) / (1 - byChance),
  };
}

/** Counts for {@link agreementOf} from two class columns; `ground` is the class both use. */
export function agreementCounts(
  truth: Uint8Array,
  result: Uint8Array,
  ground: number,
): Parameters<typeof agreementOf>[0] {
  let both = 0;
  let truthOnly = 0;
  let resultOnly = 0;
  for (let i = 0; i < truth.length; i++) {
    const isTrue = truth[i] === ground;
    const isGiven = result[i] === ground;
    if (isTrue && isGiven) both++;
    else if (isTrue) truthOnly++;
    else if (isGiven) resultOnly++;
  }
  return { both, truthOnly, resultOnly, neither: truth.length - both - truthOnly - resultOnly };
}
