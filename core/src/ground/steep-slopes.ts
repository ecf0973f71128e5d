/**
 * The steep-slope pass of Zhang et al. 2016 (section 3.4): a hanging cell next to a held one goes to the ground where the
 * ground between them rises or falls by no more than a step, and is then held itself, so that the pass climbs a bank cell
 * by cell but no wall. The neighbour beyond must not break off either: a single point that happens to lie between the foot
 * and the eaves is no way up.
 * @param height - changed in place
 * @param isHeld - 1 where the cloth touches the ground; changed in place
 * @param step - highest step between neighbouring cells, in the unit of the heights
 */
export function followSteepSlopes(
  height: Float64Array,
  isHeld: Uint8Array,
  ground: Float64Array,
  { columns, rows }: { readonly columns: number; readonly rows: number },
  step: number,
): void {
  const queue = new Int32Array(height.length);
  let tail = 0;
  for (let i = 0; i < isHeld.length; i++) if (isHeld[i] === 1) queue[tail++] = i;
  for (let head = 0; head < tail; head++) {
    const i = queue[head]!;
    const column = i % columns;
    const row = (i / columns) | 0;
    if (column > 0) climb(i, i - 1, column > 1 ? i - 2 : i - 1);
    if (column < columns - 1) climb(i, i + 1, column < columns - 2 ? i + 2 : i + 1);
    if (row > 0) climb(i, i - columns, row > 1 ? i - 2 * columns : i - columns);
    if (row < rows - 1) climb(i, i + columns, row < rows - 2 ? i + 2 * columns : i + columns);
  }

  function climb(from: number, to: number, beyond: number): void {
    if (isHeld[to] === 1 || Math.abs(ground[to]! - ground[from]!) > step || ground[beyond]! - ground[to]! > 2 * step)
      return;
    isHeld[to] = 1;
    height[to] = ground[to]!;
    queue[tail++] = to;
  }
}
