import { describe, expect, test } from 'vitest';
import { bridgeDecks, type UpperSurface } from './index.js';

const SIZE = 120;
const CELL = 0.8;
const frame = { east: 0, north: 0, cell: CELL, columns: SIZE, rows: SIZE };
const options = { widest: 30, leastDrop: 1.5, metre: 1 };

/** A surface of cells from a function of the place; a little noise, as means of cells have it. */
function land(heightAt: (x: number, y: number) => number): UpperSurface {
  let state = 5;
  const noise = (): number => ((state = (state * 48_271) % 2_147_483_647) / 2_147_483_647 - 0.5) * 0.04;
  const height = Float64Array.from(
    { length: SIZE * SIZE },
    (_, at) => heightAt(((at % SIZE) + 0.5) * CELL, (Math.floor(at / SIZE) + 0.5) * CELL) + noise(),
  );
  return { height, isLand: Uint8Array.from(height, (z) => (Number.isFinite(z) ? 1 : 0)) };
}

/** A valley from north to south: a floor 24 m wide, 6 m deep, with banks of 1 in 1.5. */
const valley = (x: number): number => 30 - 6 * Math.min(1, Math.max(0, (21 - Math.abs(x - 48)) / 9));
const marked = (level: Float64Array): number => level.reduce((sum, v) => sum + (Number.isNaN(v) ? 0 : 1), 0);

/** Share of cells on which found and true decks agree, of all that either has; rims left out. */
function agreement(level: Float64Array, isDeck: (x: number, y: number) => boolean): number {
  let [both, either] = [0, 0];
  for (let at = 0; at < level.length; at++) {
    const truth = isDeck(((at % SIZE) + 0.5) * CELL, (Math.floor(at / SIZE) + 0.5) * CELL);
    const found = !Number.isNaN(level[at]!);
    if (truth && found) both++;
    if (truth || found) either++;
  }
  return both / either;
}

describe('bridge decks', () => {
  const onDeck = (x: number, y: number): boolean => Math.abs(x - 48) < 18.5 && Math.abs(y - 48) < 4;

  test('a road over a valley is found, the road beyond it is not', () => {
    const { level, decks } = bridgeDecks(
      frame,
      land((x, y) => (Math.abs(y - 48) < 4 ? 30 : valley(x))),
      options,
    );
    expect(decks).toBe(1);
    expect(agreement(level, onDeck)).toBeGreaterThan(0.75);
    // At its own height, and not on the road ten metres from the bank.
    expect(level[Math.floor(48 / CELL) * SIZE + Math.floor(48 / CELL)]).toBeCloseTo(30, 1);
    expect(level[Math.floor(48 / CELL) * SIZE + Math.floor(15 / CELL)]).toBeNaN();
  });

  test('askew and climbing, over water that sends nothing back', () => {
    const axis = (x: number, y: number): number => (y - 48) * Math.cos(0.4) - (x - 48) * Math.sin(0.4);
    const road = (x: number): number => 30 + 0.04 * (x - 48);
    const heights = land((x, y) => {
      if (Math.abs(axis(x, y)) < 5) return Math.abs(x - 48) < 22 ? road(x) : valley(x) + 0.04 * (x - 48);
      return Math.abs(x - 48) < 11 ? NaN : valley(x) + 0.04 * (x - 48);
    });
    const { level, decks } = bridgeDecks(frame, heights, options);
    expect(decks).toBe(1);
    expect(agreement(level, (x, y) => Math.abs(x - 48) < 18 && Math.abs(axis(x, y)) < 5)).toBeGreaterThan(0.65);
  });

  test.each<[string, (x: number, y: number) => number]>([
    ['a bank with batters of 1 in 1.5', (x) => 30 + 4 * Math.min(1, Math.max(0, (9 - Math.abs(x - 48)) / 6))],
    ['a building', (x, y) => (Math.abs(x - 48) < 6 && Math.abs(y - 48) < 20 ? 36 : 30)],
    ['a pier', (x, y) => (Math.abs(y - 48) < 3 && x < 60 ? 30 : valley(Math.max(x, 20)))],
    ['a terrace wall', (x) => (x < 48 ? 30 : 33)],
    // A crown that overhangs the edge of a bank, ragged as crowns are.
    [
      'a crown',
      (x, y) => (Math.abs(y - 48) < 4 ? 30 + 0.3 * Math.sin(1e5 * Math.sin(x * 127.1 + y * 311.7)) : valley(x)),
    ],
    ['even land', () => 30],
    ['nothing at all', () => NaN],
  ])('%s is none', (_, heightAt) => {
    const { level, decks } = bridgeDecks(frame, land(heightAt), options);
    expect([decks, marked(level)]).toEqual([0, 0]);
  });

  test('a wing of a roof between two others is none: a deck goes over into land', () => {
    const roofs = (x: number, y: number): number =>
      Math.abs(y - 48) < 4 || Math.abs(x - 25) < 12 || Math.abs(x - 71) < 12 ? 36 : 30;
    const { height } = land(roofs);
    const isLand = Uint8Array.from(height, (z) => (z < 33 ? 1 : 0));
    expect(bridgeDecks(frame, { height, isLand }, options).decks).toBe(0);
  });

  test('clearings among crowns on a slope are none: beneath what covers the land nothing is known', () => {
    // Bare ways three metres wide up a hillside, crowns between them that let nothing through.
    const hill = land((x, y) => (y % 9 < 3 ? 30 + 0.3 * x : Infinity));
    expect(bridgeDecks(frame, hill, options).decks).toBe(0);
    const isVoid = { ...hill, height: hill.height.map((z) => (z === Infinity ? NaN : z)) };
    expect(bridgeDecks(frame, isVoid, options).decks).toBe(0);
  });

  test('a ledge with a high and a low side is none', () => {
    const ledge = land((x, y) => (Math.abs(y - 48) < 4 && Math.abs(x - 48) < 30 ? 30 : y < 48 ? 28 : 22));
    expect(bridgeDecks(frame, ledge, options).decks).toBe(0);
  });

  test('a tree beside it, or a lorry on it, does not hide it', () => {
    const heights = land((x, y) => {
      if (Math.hypot(x - 48, y - 58) < 3) return 33 + 3 * Math.sin(7 * x) * Math.cos(5 * y);
      if (Math.abs(x - 50) < 4 && Math.abs(y - 46) < 1.3) return 33;
      return Math.abs(y - 48) < 4 ? 30 : valley(x);
    });
    const { level, decks } = bridgeDecks(frame, heights, options);
    expect(decks).toBeGreaterThanOrEqual(1);
    expect(agreement(level, onDeck)).toBeGreaterThan(0.55);
  });
});
