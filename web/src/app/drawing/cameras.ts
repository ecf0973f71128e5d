import type { DepthScale } from './depth-shading';
import type { Matrix } from './frame';

/** Straight down on the land: `unitsPerPixel` job units a pixel about a centre. */
export interface PlanCamera {
  readonly x: number;
  readonly y: number;
  readonly unitsPerPixel: number;
  /** Elevations drawn, in scene coordinates. */
  readonly low: number;
  readonly high: number;
}

export function planMatrix(
  { x, y, unitsPerPixel, low, high }: PlanCamera,
  width: number,
  height: number,
): Float64Array {
  const sx = 2 / (unitsPerPixel * width);
  const sy = 2 / (unitsPerPixel * height);
  const sz = 2 / (high - low);
  // Seen from above: the higher, the nearer.
  return Float64Array.of(sx, 0, 0, 0, 0, sy, 0, 0, 0, 0, -sz, 0, -x * sx, -y * sy, (high + low) / (high - low), 1);
}

export function planToScene(
  camera: PlanCamera,
  px: number,
  py: number,
  width: number,
  height: number,
): [number, number] {
  return [camera.x + (px - width / 2) * camera.unitsPerPixel, camera.y - (py - height / 2) * camera.unitsPerPixel];
}

/** The reverse of {@link planToScene}. */
export function planToPixel(
  camera: PlanCamera,
  [x, y]: readonly [number, number],
  width: number,
  height: number,
): [number, number] {
  return [(x - camera.x) / camera.unitsPerPixel + width / 2, height / 2 - (y - camera.y) / camera.unitsPerPixel];
}

export function zoomPlan(
  camera: PlanCamera,
  factor: number,
  px: number,
  py: number,
  width: number,
  height: number,
): PlanCamera {
  const [x, y] = planToScene(camera, px, py, width, height);
  const unitsPerPixel = Math.max(1e-4, Math.min(1e4, camera.unitsPerPixel * factor));
  const kept = unitsPerPixel / camera.unitsPerPixel;
  return { ...camera, unitsPerPixel, x: x + (camera.x - x) * kept, y: y + (camera.y - y) * kept };
}

/** A vertical cut along a line: what lies within half the depth on either side, seen square to it. */
export interface SectionCamera {
  /** The line's ends in scene coordinates; the view looks to the left of the way from a to b. */
  readonly ax: number;
  readonly ay: number;
  readonly bx: number;
  readonly by: number;
  readonly depth: number;
  /** Station and elevation at the middle of the view. */
  readonly station: number;
  readonly z: number;
  readonly unitsPerPixel: number;
  readonly exaggeration: number;
}

export function sectionLength({ ax, ay, bx, by }: Pick<SectionCamera, 'ax' | 'ay' | 'bx' | 'by'>): number {
  return Math.hypot(bx - ax, by - ay);
}

export function sectionMatrix(camera: SectionCamera, width: number, height: number): Float64Array {
  const { ax, ay, bx, by, depth, station, z, unitsPerPixel, exaggeration } = camera;
  const length = sectionLength(camera) || 1;
  const ux = (bx - ax) / length;
  const uy = (by - ay) / length;
  const sx = 2 / (unitsPerPixel * width);
  const sz = (2 * exaggeration) / (unitsPerPixel * height);
  const sd = 2 / Math.max(depth, 1e-6);
  // Rows: along the line, up, and into the picture (to the left of the line).
  return Float64Array.of(
    ux * sx,
    0,
    -uy * sd,
    0,
    uy * sx,
    0,
    ux * sd,
    0,
    0,
    sz,
    0,
    0,
    -(ax * ux + ay * uy + station) * sx,
    -z * sz,
    (ax * uy - ay * ux) * sd,
    1,
  );
}

export function sectionToScene(
  camera: SectionCamera,
  px: number,
  py: number,
  width: number,
  height: number,
): { station: number; z: number } {
  return {
    station: camera.station + (px - width / 2) * camera.unitsPerPixel,
    z: camera.z - ((py - height / 2) * camera.unitsPerPixel) / camera.exaggeration,
  };
}

/** The reverse of {@link sectionToScene}. */
export function sectionToPixel(
  camera: SectionCamera,
  [station, z]: readonly [number, number],
  width: number,
  height: number,
): [number, number] {
  return [
    (station - camera.station) / camera.unitsPerPixel + width / 2,
    height / 2 - ((z - camera.z) * camera.exaggeration) / camera.unitsPerPixel,
  ];
}

/** Round a target: `turn` degrees clockwise from north, `tilt` degrees above the horizon, `distance` job units away. */
export interface ModelCamera {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly turn: number;
  readonly tilt: number;
  readonly distance: number;
  readonly exaggeration: number;
}

export const FIELD_OF_VIEW_DEGREES = 42;

function modelAxes({ turn, tilt }: ModelCamera): { right: number[]; up: number[]; back: number[] } {
  const t = (turn * Math.PI) / 180;
  const h = (tilt * Math.PI) / 180;
  const back = [Math.sin(t) * -Math.cos(h), Math.cos(t) * -Math.cos(h), Math.sin(h)];
  const right = [Math.cos(t), -Math.sin(t), 0];
  const up = [
    back[1]! * right[2]! - back[2]! * right[1]!,
    back[2]! * right[0]! - back[0]! * right[2]!,
    back[0]! * right[1]! - back[1]! * right[0]!,
  ];
  return { right, up, back };
}

function nearFar(camera: ModelCamera): { near: number; far: number } {
  return { near: camera.distance / 60, far: camera.distance * 12 };
}

export function modelMatrix(camera: ModelCamera, width: number, height: number): Float64Array {
  const { right, up, back } = modelAxes(camera);
  const { near, far } = nearFar(camera);
  const target = [camera.x, camera.y, camera.z * camera.exaggeration];
  const eye = [0, 1, 2].map((axis) => target[axis]! + back[axis]! * camera.distance);
  const f = 1 / Math.tan((FIELD_OF_VIEW_DEGREES * Math.PI) / 360);
  const fx = (f * height) / width;
  const dot = (a: number[]): number => a[0]! * eye[0]! + a[1]! * eye[1]! + a[2]! * eye[2]!;
  const a = (far + near) / (far - near);
  const b = (2 * far * near) / (far - near);
  const ex = camera.exaggeration;
  // View space: x right, y up, distance = -back·(p − eye). Clip z = a·distance − b, w = distance.
  const columns: number[] = [];
  for (let axis = 0; axis < 3; axis++) {
    const stretch = axis === 2 ? ex : 1;
    columns.push(
      right[axis]! * fx * stretch,
      up[axis]! * f * stretch,
      -back[axis]! * a * stretch,
      -back[axis]! * stretch,
    );
  }
  const distanceAtOrigin = dot(back);
  columns.push(-dot(right) * fx, -dot(up) * f, distanceAtOrigin * a - b, distanceAtOrigin);
  return Float64Array.from(columns);
}

export function modelDepthScale(camera: ModelCamera, height: number): DepthScale {
  return {
    isPerspective: true,
    ...nearFar(camera),
    pixel: (2 * Math.tan((FIELD_OF_VIEW_DEGREES * Math.PI) / 360)) / height,
  };
}

/** How far off a sphere of `radius` just fills the view; seen at a slant, land fills it lower than wide. */
export function modelDistance(radius: number, width: number, height: number): number {
  const up = Math.tan((FIELD_OF_VIEW_DEGREES * Math.PI) / 360);
  const across = (up * width) / Math.max(1, height);
  return (0.88 * radius) / Math.min(across, up * 1.5);
}

/** Moves the target with the picture, so that what is under the pointer stays there near the target. */
export function panModel(camera: ModelCamera, dx: number, dy: number, height: number): ModelCamera {
  const { right } = modelAxes(camera);
  const perPixel = (2 * camera.distance * Math.tan((FIELD_OF_VIEW_DEGREES * Math.PI) / 360)) / height;
  const ahead = [right[1]! * -1, right[0]!]; // level with the ground, away from the eye
  const climb = Math.max(0.2, Math.sin((camera.tilt * Math.PI) / 180));
  return {
    ...camera,
    x: camera.x - right[0]! * dx * perPixel + (ahead[0]! * dy * perPixel) / climb,
    y: camera.y - right[1]! * dx * perPixel + (ahead[1]! * dy * perPixel) / climb,
  };
}

export function turnModel(camera: ModelCamera, dx: number, dy: number): ModelCamera {
  return {
    ...camera,
    turn: (camera.turn + dx * 0.35 + 360) % 360,
    tilt: Math.max(2, Math.min(89.5, camera.tilt + dy * 0.35)),
  };
}

/** Applies a matrix to a point; `undefined` behind the eye. */
export function project(
  matrix: Matrix,
  x: number,
  y: number,
  z: number,
  width: number,
  height: number,
): [number, number] | undefined {
  const w = matrix[3]! * x + matrix[7]! * y + matrix[11]! * z + matrix[15]!;
  if (w <= 0) return undefined;
  const cx = (matrix[0]! * x + matrix[4]! * y + matrix[8]! * z + matrix[12]!) / w;
  const cy = (matrix[1]! * x + matrix[5]! * y + matrix[9]! * z + matrix[13]!) / w;
  return [((cx + 1) / 2) * width, ((1 - cy) / 2) * height];
}

/** Scene coordinates as a pixel of a picture drawn by `m`; `undefined` behind the eye. */
export function toPixel(
  m: Matrix,
  [x, y, z]: readonly [number, number, number],
  width: number,
  height: number,
): [number, number] | undefined {
  const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
  if (w <= 0) return undefined;
  const cx = (m[0]! * x + m[4]! * y + m[8]! * z + m[12]!) / w;
  const cy = (m[1]! * x + m[5]! * y + m[9]! * z + m[13]!) / w;
  return [((cx + 1) / 2) * width, ((1 - cy) / 2) * height];
}
