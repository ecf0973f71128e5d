import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { onePointPerCell } from './one-point-per-cell.js';
import { thinEvenLand } from './thin-even-land.js';

/** Twenty points a square metre over 40 by 40 m, with 2 cm of noise. */
function cloudOver(height: (e: number, n: number) => number) {
  const random = seededRandom(17);
  const count = 32_000;
  const [e, n, z] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  for (let i = 0; i < count; i++) {
    [e[i], n[i]] = [random() * 40, random() * 40];
    const noise = Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    z[i] = height(e[i]!, n[i]!) + 0.02 * noise;
  }
  return { e, n, z };
}

describe('thinning even land', () => {
  test('on a slope keeps one point a cell, as the plain rule has it', () => {
    const { e, n, z } = cloudOver((east) => 0.3 * east);
    const kept = thinEvenLand(e, n, z, 1);
    // A few cells scatter more by chance.
    expect(kept.length).toBeGreaterThanOrEqual(1600);
    expect(kept.length).toBeLessThan(1650);
    const plain = new Set(onePointPerCell(e, n, z, 1));
    expect(kept.filter((i) => plain.has(i)).length).toBeGreaterThan(1590);
  });

  test('at a kerb of 0.14 m keeps cells of a quarter, there and nowhere else', () => {
    const { e, n, z } = cloudOver((east) => (east > 20.4 ? 0.14 : 0));
    const kept = thinEvenLand(e, n, z, 1);
    const beside = kept.filter((i) => Math.floor(e[i]!) === 20).length;
    expect(beside).toBeGreaterThan(40 * 4);
    expect(kept.length - beside).toBeLessThan(1650);
  });

  test('does not depend on the order of the points', () => {
    const { e, n, z } = cloudOver((east, north) => (north > 11.3 ? 1.5 : 0) + 0.1 * Math.sin(east));
    const turned = [e, n, z].map((values) => values.slice().reverse()) as [Float64Array, Float64Array, Float64Array];
    const one = [...thinEvenLand(e, n, z, 1)];
    const other = [...thinEvenLand(...turned, 1)].map((i) => e.length - 1 - i).sort((a, b) => a - b);
    expect(other).toEqual(one);
  });

  test('a few points are all kept, one a cell', () => {
    expect([...thinEvenLand(Float64Array.of(0.5, 1.5), Float64Array.of(0.5, 0.5), Float64Array.of(1, 2), 1)]).toEqual([
      0, 1,
    ]);
    expect(thinEvenLand(new Float64Array(), new Float64Array(), new Float64Array(), 1).length).toBe(0);
  });
});
