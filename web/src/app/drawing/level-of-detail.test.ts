import { describe, expect, test } from 'vitest';
import { modelMatrix, planMatrix } from './cameras';
import { isInView, pixelsPerUnit, wantedNodes, type SceneNode } from './level-of-detail';

const SIZE = { width: 800, height: 600 };
const plan = (unitsPerPixel: number, x = 0) =>
  planMatrix({ x, y: 0, unitsPerPixel, low: -50, high: 50 }, SIZE.width, SIZE.height);
const node = (id: number, level: number, spacing: number, low: number, high: number): SceneNode =>
  ({
    id,
    level,
    spacing,
    count: 1,
    low: [low, low, 0],
    high: [high, high, 10],
    min: [0, 0, 0],
    max: [0, 0, 0],
    revision: 1,
    positions: 0,
    colours: 0,
  }) as SceneNode;

describe('which nodes a view needs', () => {
  test('those that it can see: Plan of 800 by 600 m sees 400 m to each side', () => {
    const matrix = plan(1);
    expect(isInView(matrix, [390, 0, 0], [500, 10, 10])).toBe(true);
    expect(isInView(matrix, [410, 0, 0], [500, 10, 10])).toBe(false);
    expect(isInView(matrix, [-1000, -1000, 0], [1000, 1000, 10])).toBe(true);
  });

  test('Plan has as many pixels a metre as its scale says, wherever', () => {
    expect(pixelsPerUnit(plan(0.5), SIZE.width, [0, 0, 0], [10, 10, 10])).toBeCloseTo(2, 9);
    expect(pixelsPerUnit(plan(0.5), SIZE.width, [100, 0, 0], [110, 10, 10])).toBeCloseTo(2, 9);
  });

  test('Model has more the nearer', () => {
    const camera = { x: 0, y: 0, z: 0, turn: 0, tilt: 30, distance: 300, exaggeration: 1 };
    const matrix = modelMatrix(camera, SIZE.width, SIZE.height);
    const near = pixelsPerUnit(matrix, SIZE.width, [-10, -160, 0], [10, -140, 5]);
    const far = pixelsPerUnit(matrix, SIZE.width, [-10, 140, 0], [10, 160, 5]);
    expect(near).toBeGreaterThan(1.5 * far);
  });

  const nodes = [node(1, 0, 8, -100, 100), node(2, 1, 4, -100, 0), node(3, 1, 4, 0, 100), node(4, 2, 0, 0, 50)];
  const ids = (unitsPerPixel: number, x = 0): number[] =>
    wantedNodes(nodes, plan(unitsPerPixel, x), SIZE.width, 2).map(({ id }) => id);

  test('finer ones as the view comes nearer: until the parent’s points are two pixels apart', () => {
    expect(ids(8)).toEqual([1]); // 8 m of the root are one pixel
    expect(ids(3)).toEqual([1, 2, 3]); // 8 m are 2.7 pixels, 4 m are 1.3
    expect(ids(1)).toEqual([1, 2, 3, 4]);
  });

  test('and none that lie outside', () => {
    expect(ids(0.05, 75)).toEqual([1, 3]);
    expect(ids(0.02, 25)).toContain(4);
  });
});
