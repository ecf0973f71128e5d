/**
 * The piece of a line between two stations that a place lies on, by halving: the last that begins at the place or before it.
 * @param stations - rising, two at least
 */
export function pieceAt(stations: ArrayLike<number>, at: number, count = stations.length): number {
  let [low, high] = [0, count - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (stations[middle]! <= at) low = middle;
    else high = middle;
  }
  return low;
}

/** A value at a place, linear between the stations it is known at; NaN before the first and after the last. */
export function valueAlong(stations: ArrayLike<number>, values: ArrayLike<number>, at: number): number {
  const last = stations.length - 1;
  if (last < 0 || at < stations[0]! || at > stations[last]!) return NaN;
  const low = pieceAt(stations, at);
  const high = Math.min(low + 1, last);
  const span = stations[high]! - stations[low]!;
  const share = span > 0 ? (at - stations[low]!) / span : 0;
  return values[low]! + share * (values[high]! - values[low]!);
}
