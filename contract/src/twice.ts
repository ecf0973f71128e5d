/** The first value that stands in a list a second time; undefined where each stands once. */
export function listedTwice<T>(values: readonly T[]): T | undefined {
  const seen = new Set<T>();
  return values.find((value) => seen.size === seen.add(value).size);
}
