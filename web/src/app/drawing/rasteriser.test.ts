import { describe, expect, test } from 'vitest';
import { modelMatrix, planMatrix, planToScene, project, sectionMatrix, zoomPlan, type PlanCamera } from './cameras';
import { abgr } from './colours';
import { classColour } from '@pampero/core/tints';
import { isInView, pixelsPerUnit, wantedNodes, type SceneNode } from './level-of-detail';
import { drawGrid } from './grid-rasteriser';
import { drawPoints } from './point-rasteriser';
import { newFrame, pickPoint } from './frame';
import { shadeFrame } from './depth-shading';
import { roundLength, roundMarks } from '../viewer/scale-bar';

const plan: PlanCamera = { x: 100, y: 50, unitsPerPixel: 0.5, low: 0, high: 100 };
const red = abgr('#ff0000');
const blue = abgr('#0000ff');

function points(rows: readonly (readonly [number, number, number, number])[]) {
  const column = (k: 0 | 1 | 2): Float32Array => Float32Array.from(rows, (r) => r[k]);
  return { count: rows.length, x: column(0), y: column(1), z: column(2), colour: Uint32Array.from(rows, (r) => r[3]) };
}

describe('points in Plan', () => {
  test('lie where the camera says, the higher hiding the lower, a hidden class nowhere', () => {
    const frame = newFrame(40, 20);
    const inside = drawPoints(
      frame,
      planMatrix(plan, 40, 20),
      points([
        [100.1, 50.1, 10, red],
        [100.1, 50.1, 60, blue],
        [103, 50, 90, 0],
        [999, 50, 10, red],
      ]),
      7,
      1,
    );
    expect(inside).toBe(2);
    // The middle of 40 x 20 pixels: column 20, row 10 from below.
    expect(frame.colour[10 * 40 + 20]).toBe(blue);
    expect([...frame.colour].filter((c) => c !== 0)).toHaveLength(1);
    expect(pickPoint(frame, 21, 11, 3)).toEqual({ slot: 7, index: 1 });
    expect(pickPoint(frame, 2, 2, 3)).toBeUndefined();
  });

  test('grow to squares, cut at the rim', () => {
    const frame = newFrame(40, 20);
    drawPoints(
      frame,
      planMatrix(plan, 40, 20),
      points([
        [100.1, 50.1, 10, red],
        [90.1, 50.1, 10, red],
      ]),
      1,
      3,
    );
    expect([...frame.colour].filter((c) => c === red)).toHaveLength(9 + 6);
  });
});

describe('cameras', () => {
  test('zooming Plan keeps what is under the pointer', () => {
    const near = zoomPlan(plan, 0.25, 33, 5, 40, 20);
    expect(planToScene(near, 33, 5, 40, 20)).toEqual(planToScene(plan, 33, 5, 40, 20));
  });

  test('a section shows stations to the right, heights up, and only what lies within its depth', () => {
    // From (0, 0) to (0, 100), north; it looks to the left, west.
    const matrix = sectionMatrix(
      { ax: 0, ay: 0, bx: 0, by: 100, depth: 4, station: 50, z: 10, unitsPerPixel: 1, exaggeration: 2 },
      200,
      100,
    );
    expect(project(matrix, 0, 80, 10, 200, 100)).toEqual([130, 50]);
    expect(project(matrix, 1.9, 50, 20, 200, 100)).toEqual([100, 30]); // 10 up, twice drawn out
    const frame = newFrame(200, 100);
    expect(
      drawPoints(
        frame,
        matrix,
        points([
          [1.9, 50, 10, red],
          [2.1, 50, 10, red],
          [-1.9, 50, 10, red],
        ]),
        1,
        1,
      ),
    ).toBe(2);
  });

  test('Model has its target in the middle, what is nearer lower and larger', () => {
    const camera = { x: 5, y: 6, z: 7, turn: 0, tilt: 30, distance: 100, exaggeration: 1 };
    const matrix = modelMatrix(camera, 400, 300);
    const at = (x: number, y: number, z: number) => project(matrix, x, y, z, 400, 300)!;
    expect(at(5, 6, 7)[0]).toBeCloseTo(200, 9);
    expect(at(5, 6, 7)[1]).toBeCloseTo(150, 9);
    expect(at(15, 6, 7)[0]).toBeGreaterThan(200); // east is right when looking north
    expect(at(5, 26, 7)[1]).toBeLessThan(150); // further north is higher up
    expect(at(15, -14, 7)[0] - 200).toBeGreaterThan(at(15, 26, 7)[0] - 200);
  });
});

describe('level of detail', () => {
  const node = (
    level: number,
    low: readonly [number, number, number],
    high: readonly [number, number, number],
    spacing: number,
  ): SceneNode => ({
    ...{ id: level, level, count: 1, spacing, revision: 0, positions: 0, colours: 0, low, high },
    min: [0, 0, 0],
    max: [0, 0, 0],
  });
  const matrix = planMatrix(plan, 40, 20);

  test('only what is in view, and only as fine as pixels can show', () => {
    // The view covers 90 to 110 by 45 to 55, 2 pixels a unit.
    expect(isInView(matrix, [80, 40, 0], [91, 60, 10])).toBe(true);
    expect(isInView(matrix, [80, 40, 0], [89, 60, 10])).toBe(false);
    expect(pixelsPerUnit(matrix, 40, [90, 45, 0], [110, 55, 10])).toBeCloseTo(2, 9);
    const tree = [
      node(0, [0, 0, 0], [200, 200, 10], 2),
      node(1, [90, 40, 0], [110, 60, 10], 1),
      node(2, [90, 40, 0], [100, 50, 10], 0.5),
      node(3, [95, 45, 0], [100, 50, 10], 0),
    ];
    // Level 0 leaves its samples 4 pixels apart, level 1 two, level 2 one: with 1.4 asked for, level 3 is not wanted.
    expect(wantedNodes(tree, matrix, 40, 1.4).map((n) => n.level)).toEqual([0, 1, 2]);
  });
});

describe('surfaces and shading', () => {
  test('a grid fills its cells and leaves a hole where a corner is missing', () => {
    const frame = newFrame(40, 20);
    const elevation = new Float32Array(9).fill(5);
    elevation[8] = NaN;
    drawGrid(frame, planMatrix(plan, 40, 20), {
      columns: 3,
      rows: 3,
      x: 95,
      y: 46,
      step: 4,
      elevation,
      colour: new Uint32Array(9).fill(red),
    });
    // Three whole cells of 8 x 8 pixels; of the fourth, only corners with all their neighbours.
    const filled = [...frame.colour].filter((c) => c === red).length;
    expect(filled).toBeGreaterThanOrEqual(3 * 64);
    expect(filled).toBeLessThan(4 * 64);
  });

  test('a level plane keeps its colour; a pixel behind its neighbours is darkened; nothing stays clear', () => {
    const frame = newFrame(5, 3);
    frame.depth.fill(0);
    frame.colour.fill(abgr('#808080'));
    frame.depth[7] = 0.5;
    frame.depth[14] = 2;
    frame.colour[14] = 0;
    const rgba = shadeFrame(frame, { isPerspective: false, near: 0, far: 10, pixel: 1 }, 1);
    expect(rgba[0]).toBe(0x80);
    expect(rgba[7 * 4]).toBeLessThan(0x70);
    expect(rgba[14 * 4 + 3]).toBe(0);
  });
});

test('scale bars and marks are round', () => {
  expect(roundLength(0.5, 170)).toBe(50);
  expect(roundLength(0.003, 170)).toBeCloseTo(0.5, 12);
  expect(roundMarks(28.3, 41.9, 5)).toEqual({ step: 5, marks: [30, 35, 40] });
});

test('colours: ABGR words, class colours all different', () => {
  expect(abgr('#102030')).toBe(0xff302010);
  const codes = Array.from({ length: 256 }, (_, code) => code).filter((code) => code <= 22 || code >= 64);
  expect(new Set(codes.slice(0, 60).map(classColour)).size).toBe(60);
});
