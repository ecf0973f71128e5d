/**
 * Fills empty cells from the filled ones about them, the narrow gaps first: each cell from the nearest filled cells in eight
 * directions, weighed by inverse distance, where there is one on at least five of them; never from further than `reach`, so
 * that a wide void stays one.
 * @param values - rows times columns, NaN where empty
 * @param reach - cells
 * @returns a new array
 */
export function fillGaps(
  values: Float32Array,
  columns: number,
  rows: number,
  reach: number,
): Float32Array<ArrayBuffer> {
  const out = Float32Array.from(values);
  if (reach < 1) return out;
  const directions = [
    [1, 0],
    [1, 1],
    [0, 1],
    [-1, 1],
    [-1, 0],
    [-1, -1],
    [0, -1],
    [1, -1],
  ] as const;
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (!Number.isNaN(values[i]!)) continue;
      let [sum, weight, seen] = [0, 0, 0];
      for (const [dc, dr] of directions) {
        const step = Math.hypot(dc, dr);
        for (let far = 1; far * step <= reach; far++) {
          const [c, r] = [column + dc * far, row + dr * far];
          if (c < 0 || r < 0 || c >= columns || r >= rows) break;
          const value = values[r * columns + c]!;
          if (Number.isNaN(value)) continue;
          const w = 1 / (far * step);
          sum += w * value;
          weight += w;
          seen++;
          break;
        }
      }
      if (seen >= 5) out[i] = sum / weight;
    }
  return out;
}
