/** The set with one taken in, or out where it was in. */
export function toggled<T>(before: ReadonlySet<T>, one: T): ReadonlySet<T> {
  const after = new Set(before);
  if (!after.delete(one)) after.add(one);
  return after;
}
