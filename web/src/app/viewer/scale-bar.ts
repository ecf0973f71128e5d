/** A round length, 1, 2 or 5 times a power of ten, that takes at most `most` pixels. */
export function roundLength(unitsPerPixel: number, most: number): number {
  const target = unitsPerPixel * most;
  const power = 10 ** Math.floor(Math.log10(target));
  const step = [5, 2, 1].find((s) => s * power <= target) ?? 1;
  return step * power;
}

/** Round marks from `low` to `high`, at most `most` of them. */
export function roundMarks(low: number, high: number, most: number): { step: number; marks: number[] } {
  const span = high - low;
  if (!(span > 0)) return { step: 1, marks: [] };
  const raw = span / most;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = ([1, 2, 5].find((s) => s * power >= raw) ?? 10) * power;
  const marks: number[] = [];
  for (let k = Math.ceil(low / step); k * step <= high; k++) marks.push(k * step);
  return { step, marks };
}
