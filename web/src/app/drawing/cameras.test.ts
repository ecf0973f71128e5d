import { describe, expect, test } from 'vitest';
import {
  modelDistance,
  modelMatrix,
  panModel,
  planMatrix,
  planToScene,
  sectionMatrix,
  sectionToScene,
  turnModel,
  zoomPlan,
  type ModelCamera,
  type SectionCamera,
} from './cameras';

const [width, height] = [800, 400];
/** Where a place falls on the screen, and its depth from -1 (near) to 1. */
function projected(m: Float64Array, [x, y, z]: readonly [number, number, number]): [number, number, number] {
  const at = (row: number): number => m[row]! * x + m[row + 4]! * y + m[row + 8]! * z + m[row + 12]!;
  const w = at(3);
  return [((at(0) / w + 1) / 2) * width, ((1 - at(1) / w) / 2) * height, at(2) / w];
}

describe('Plan', () => {
  const camera = { x: 100, y: 50, unitsPerPixel: 0.5, low: 0, high: 40 };
  test('a pixel and its place on the land lead to each other', () => {
    for (const [px, py] of [
      [0, 0],
      [400, 200],
      [799, 399],
      [123, 321],
    ] as const) {
      // prettier-ignore
      const [x, y] = planToScene(camera, px, py, width, height);
      const [qx, qy] = projected(planMatrix(camera, width, height), [x, y, 20]);
      expect([qx, qy]).toEqual([expect.closeTo(px, 6), expect.closeTo(py, 6)]);
    }
  });
  test('what is higher is nearer to the eye', () => {
    const depth = (z: number): number => projected(planMatrix(camera, width, height), [100, 50, z])[2];
    expect(depth(30)).toBeLessThan(depth(10));
  });
  test('zooming leaves the land under the pointer where it is', () => {
    const before = planToScene(camera, 600, 100, width, height);
    const after = planToScene(zoomPlan(camera, 0.25, 600, 100, width, height), 600, 100, width, height);
    expect(after).toEqual([expect.closeTo(before[0], 9), expect.closeTo(before[1], 9)]);
  });
  test('nobody zooms out of the numbers', () => {
    let near = camera;
    let far = camera;
    for (let k = 0; k < 200; k++) {
      near = zoomPlan(near, 0.5, 1, 1, width, height);
      far = zoomPlan(far, 2, 1, 1, width, height);
    }
    expect([near.unitsPerPixel, far.unitsPerPixel]).toEqual([1e-4, 1e4]);
    expect([near.x, far.x].every(Number.isFinite)).toBe(true);
  });
});

describe('Section', () => {
  // From west to east: the view looks north.
  const camera: SectionCamera = {
    ax: 0,
    ay: 0,
    bx: 100,
    by: 0,
    depth: 4,
    station: 50,
    z: 10,
    unitsPerPixel: 0.25,
    exaggeration: 5, // prettier-ignore
  };
  const matrix = sectionMatrix(camera, width, height);
  test('stations run along the line, heights are drawn out', () => {
    const [x1, y1] = projected(matrix, [50, 0, 10]);
    const [x2, y2] = projected(matrix, [60, 0, 11]);
    expect([x1, y1]).toEqual([400, 200]);
    expect(x2 - x1).toBeCloseTo(10 / 0.25, 9);
    expect(y1 - y2).toBeCloseTo((1 / 0.25) * 5, 9);
  });
  test('half the depth on either side is in it, and no more', () => {
    const depth = (north: number): number => Math.abs(projected(matrix, [50, north, 10])[2]);
    expect(depth(1.99)).toBeLessThan(1);
    expect(depth(-1.99)).toBeLessThan(1);
    expect(depth(2.01)).toBeGreaterThan(1);
  });
  test('from the other end left and right change places', () => {
    const back = sectionMatrix({ ...camera, ax: 100, bx: 0 }, width, height);
    expect(projected(back, [60, 0, 10])[0]).toBeLessThan(projected(back, [40, 0, 10])[0]);
  });
  test('a pixel says station and height', () => {
    expect(sectionToScene(camera, 440, 180, width, height)).toEqual({ station: 60, z: 11 });
  });
});

describe('Model', () => {
  const camera: ModelCamera = { x: 10, y: 20, z: 5, turn: 0, tilt: 30, distance: 200, exaggeration: 1 };
  test('its target is in the middle, however it is turned', () => {
    for (const turn of [0, 90, 217])
      for (const tilt of [5, 45, 89]) {
        const [x, y] = projected(modelMatrix({ ...camera, turn, tilt }, width, height), [10, 20, 5]);
        expect([x, y]).toEqual([expect.closeTo(400, 6), expect.closeTo(200, 6)]);
      }
  });
  test('north is up at a turn of 0, and what is high stands up', () => {
    const matrix = modelMatrix(camera, width, height);
    expect(projected(matrix, [10, 60, 5])[1]).toBeLessThan(200);
    expect(projected(matrix, [10, 20, 30])[1]).toBeLessThan(200);
    expect(projected(matrix, [50, 20, 5])[0]).toBeGreaterThan(400);
  });
  test('it is not tilted past the top or under the land', () => {
    expect(turnModel(camera, 0, 1000).tilt).toBeLessThanOrEqual(90);
    expect(turnModel(camera, 0, -1000).tilt).toBeGreaterThanOrEqual(-90);
  });
  test('panning moves the target with the pointer', () => {
    const moved = panModel(camera, 40, 0, height);
    const [x] = projected(modelMatrix(moved, width, height), [10, 20, 5]);
    expect(x).toBeCloseTo(440, 0);
  });
  test('the far edge of a site is in sight at the distance that is taken for it', () => {
    const distance = modelDistance(150, width, height);
    const [, y] = projected(modelMatrix({ ...camera, distance, tilt: 38 }, width, height), [10, 170, 5]);
    expect(y).toBeGreaterThan(0);
    expect(y).toBeLessThan(height / 2);
  });
});
