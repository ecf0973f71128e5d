type Place = readonly [number, number];

/** How the next leg is held. */
export type LegRule = 'free' | 'ortho' | 'parallel';

/**
 * Where the next corner goes when the leg is held: square to the last leg (or along it), or in a given direction. The nearest place to
 * the pointer that the rule allows.
 * @param from - the corner the leg begins at
 * @param along - direction it is held to: of the last leg, or of the line that was picked; east where there is none
 */
export function heldPlace(rule: LegRule, at: Place, from: Place | undefined, along: Place = [1, 0]): Place {
  if (rule === 'free' || !from) return at;
  const length = Math.hypot(...along);
  if (length === 0) return at;
  const [ue, un] = [along[0] / length, along[1] / length];
  const [pe, pn] = [at[0] - from[0], at[1] - from[1]];
  const forward = pe * ue + pn * un;
  const sideways = pe * -un + pn * ue;
  if (rule === 'parallel' || Math.abs(forward) >= Math.abs(sideways))
    return [from[0] + forward * ue, from[1] + forward * un];
  return [from[0] - sideways * un, from[1] + sideways * ue];
}

/** A section across a leg at its end, so wide on either side. */
export function sectionAcross(
  from: Place,
  to: Place,
  half: number,
): { a: [number, number]; b: [number, number] } | undefined {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
  if (length === 0) return undefined;
  const [ne, nn] = [(-(to[1] - from[1]) / length) * half, ((to[0] - from[0]) / length) * half];
  return { a: [to[0] + ne, to[1] + nn], b: [to[0] - ne, to[1] - nn] };
}
