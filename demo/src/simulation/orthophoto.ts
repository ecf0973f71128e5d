import type { RasterFrame } from '@pampero/core/raster';
import { CLASS, type Scene } from './scene.js';
import { smoothNoise } from './smooth-noise.js';

export interface OrthophotoOptions {
  /** Side of a pixel, metres. */
  readonly pixel: number;
  /** How far all of it lies off to the east and the north. */
  readonly shift: readonly [number, number];
  /** Whether roofs and crowns lean away from where a camera stood, as they do over a terrain model. */
  readonly leans: boolean;
}

/** A picture of a scene from above: three bytes a pixel, row 0 the southernmost; its frame is in metres from the scene's corner. */
export interface Orthophoto {
  readonly rgb: Uint8Array;
  /** Elevation of what is seen at each pixel. */
  readonly top: Float32Array;
  readonly frame: RasterFrame;
}

type Colour = readonly [number, number, number];
const GRASS: Colour = [126, 138, 78];
const TUSSOCK: Colour = [156, 148, 92];
const GRAVEL: Colour = [205, 196, 176];
const WATER: Colour = [52, 70, 74];
const ROOFS: readonly Colour[] = [
  [176, 184, 190],
  [150, 82, 66],
  [196, 192, 180],
];
const CROWN: Colour = [58, 86, 44];
const WOOD: Colour = [104, 88, 72];
const CAR: Colour = [236, 236, 232];

/** Where the sun stands: from the north-west, as in the afternoon of the southern summer; tangent of its height. */
const [SUN_EAST, SUN_NORTH, SUN_HEIGHT] = [-0.64, 0.77, 1.05];
/** Cameras stand above a net of this side, and so high. */
const [CAMERA_NET, CAMERA_HEIGHT] = [60, 80];
const GROUND_STEP = 0.5;

/** Renders a scene as an orthophoto; the same scene and options give the same bytes. */
export function renderOrthophoto(scene: Scene, { pixel, shift, leans }: OrthophotoOptions): Orthophoto {
  const { extent, objects } = scene;
  const [columns, rows] = [Math.floor(extent.east / pixel), Math.floor(extent.north / pixel)];
  const frame = { east: 0, north: 0, cell: pixel, columns, rows };
  const ground = groundNet(scene);
  const count = columns * rows;
  /** Height over the ground of what stands there, and its colour; nothing where there is none. */
  const height = new Float32Array(count);
  const paint = new Uint32Array(count);

  const put = (e: number, n: number, over: number, [r, g, b]: Colour): void => {
    const [le, ln] = leans ? lean(e, n, over) : [e, n];
    const [column, row] = [Math.floor((le + shift[0]) / pixel), Math.floor((ln + shift[1]) / pixel)];
    if (column < 0 || row < 0 || column >= columns || row >= rows) return;
    const at = row * columns + column;
    if (paint[at] !== 0 && height[at]! > over) return;
    height[at] = over;
    paint[at] = (1 << 24) | (r << 16) | (g << 8) | b;
  };
  /** Walks a rectangle finely enough to leave no pixel out, also where it leans. */
  const over = (
    { east, north, halfLength, halfWidth, turned }: { east: number; north: number; halfLength: number; halfWidth: number; turned: number }, // prettier-ignore
    each: (e: number, n: number, u: number, v: number) => void,
  ): void => {
    const [cos, sin] = [Math.cos((turned * Math.PI) / 180), Math.sin((turned * Math.PI) / 180)];
    const step = pixel * 0.6;
    for (let u = -halfLength; u <= halfLength; u += step)
      for (let v = -halfWidth; v <= halfWidth; v += step)
        each(east + u * cos - v * sin, north + u * sin + v * cos, u, v);
  };
  objects.buildings.forEach((building, k) => {
    const { halfWidth, eaves, ridge, isLeanTo, floor } = building;
    over(building, (e, n, u, v) => {
      const share = isLeanTo ? (v + halfWidth) / (2 * halfWidth) : 1 - Math.abs(v) / halfWidth;
      // One side of the roof lies towards the sun; sheets lie every metre.
      const light = (v < 0 ? 0.84 : 1.1) * (Math.abs(u - Math.round(u)) < 0.08 ? 0.9 : 1);
      put(e, n, eaves + share * (ridge - eaves) - floor, lit(ROOFS[k % ROOFS.length]!, light));
    });
  });
  for (const { east, north, foot, middle, halfHeight, radius } of objects.trees)
    over({ east, north, halfLength: radius, halfWidth: radius, turned: 0 }, (e, n, u, v) => {
      const far = Math.hypot(u, v) / radius;
      if (far > 0.86 + 0.2 * smoothNoise(e * 2.3, n * 2.3)) return;
      const top = middle + halfHeight * Math.sqrt(Math.max(0, 1 - far * far)) - foot;
      const light = 0.72 + 0.5 * smoothNoise(e * 3.1, n * 3.1) + 0.22 * ((u * SUN_EAST + v * SUN_NORTH) / radius);
      put(e, n, top, lit(CROWN, light));
    });
  for (const { from, to, radius, classCode } of objects.rods) {
    if (classCode === CLASS.conductor) continue; // thinner than a pixel
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    const steps = Math.ceil(length / (0.5 * pixel)) + 1;
    if (radius < pixel / 6) continue;
    for (let k = 0; k < steps; k++) {
      const t = k / steps;
      const [e, n, z] = [0, 1, 2].map((axis) => from[axis]! + (to[axis]! - from[axis]!) * t) as [
        number,
        number,
        number,
      ];
      put(e, n, z - ground(e, n), WOOD);
    }
  }
  for (const box of objects.boxes)
    over(box, (e, n) => put(e, n, box.top - ground(e, n), box.classCode === CLASS.vehicle ? CAR : WOOD));

  const shade = shadows(height, paint, frame);
  const rgb = new Uint8Array(3 * count);
  const top = new Float32Array(count);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      const [e, n] = [(column + 0.5) * pixel - shift[0], (row + 0.5) * pixel - shift[1]];
      const painted = paint[at]!;
      const land = ground(e, n);
      top[at] = painted !== 0 ? land + height[at]! : Math.max(land, scene.water(e, n));
      const colour: Colour =
        painted !== 0 ? [(painted >> 16) & 255, (painted >> 8) & 255, painted & 255] : landColour(scene, ground, e, n);
      const grain = 0.95 + 0.1 * hash(column, row);
      const light = grain * (shade[at] === 1 ? 0.52 : 1);
      for (let band = 0; band < 3; band++)
        rgb[3 * at + band] = Math.max(0, Math.min(255, Math.round(colour[band]! * light)));
    }
  return { rgb, top, frame };
}

function landColour(scene: Scene, ground: (e: number, n: number) => number, e: number, n: number): Colour {
  const z = ground(e, n);
  const water = scene.water(e, n);
  if (water > z) {
    // Shallow water shows its bed.
    const deep = Math.min(1, (water - z) / 0.7);
    return mixed([112, 104, 78], lit(WATER, 0.96 + 0.08 * smoothNoise(e / 9, n / 9)), 0.35 + 0.65 * deep);
  }
  const d = 0.75;
  const slopeSun =
    ((ground(e + d, n) - ground(e - d, n)) * SUN_EAST + (ground(e, n + d) - ground(e, n - d)) * SUN_NORTH) / (2 * d);
  const light = Math.max(0.45, Math.min(1.35, 1 - 0.75 * slopeSun));
  if (scene.isHard(e, n)) return lit(GRAVEL, light * (0.93 + 0.12 * smoothNoise(e * 1.7, n * 1.7)));
  const patch = smoothNoise(e / 14 + 3, n / 14 + 9);
  const tall = Math.min(1, scene.grass(e, n) / 0.25);
  const soil = Math.max(0, smoothNoise(e / 31 + 40, n / 31 + 17) - 0.72) * 2.4;
  const base = mixed(mixed(GRASS, TUSSOCK, 0.35 * patch + 0.65 * tall), [152, 128, 98], soil);
  return lit(base, light * (0.86 + 0.28 * smoothNoise(e * 1.3, n * 1.3)));
}

/** Ground heights from a net, since most pixels ask for them five times. */
function groundNet({ extent, ground }: Scene): (e: number, n: number) => number {
  const [columns, rows] = [Math.ceil(extent.east / GROUND_STEP) + 9, Math.ceil(extent.north / GROUND_STEP) + 9];
  const net = new Float32Array(columns * rows);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++)
      net[at] = ground((column - 4) * GROUND_STEP, (row - 4) * GROUND_STEP);
  return (e, n) => {
    const x = Math.max(0, Math.min(columns - 1.001, e / GROUND_STEP + 4));
    const y = Math.max(0, Math.min(rows - 1.001, n / GROUND_STEP + 4));
    const [c, r] = [Math.floor(x), Math.floor(y)];
    const [u, v] = [x - c, y - r];
    const at = r * columns + c;
    return (
      (1 - v) * ((1 - u) * net[at]! + u * net[at + 1]!) +
      v * ((1 - u) * net[at + columns]! + u * net[at + columns + 1]!)
    );
  };
}

/** Where a thing that stands so high is seen: away from the camera that stood nearest. */
function lean(e: number, n: number, over: number): [number, number] {
  const [ce, cn] = [e, n].map((value) => (Math.floor(value / CAMERA_NET) + 0.5) * CAMERA_NET) as [number, number];
  const share = over / (CAMERA_HEIGHT - over);
  return [e + (e - ce) * share, n + (n - cn) * share];
}

/** Pixels that lie in the shade of something: everything that stands throws its own away from the sun. */
function shadows(height: Float32Array, paint: Uint32Array, { columns, rows, cell }: RasterFrame): Uint8Array {
  const shade = new Uint8Array(height.length);
  const size = Math.hypot(SUN_EAST, SUN_NORTH);
  const [de, dn] = [-SUN_EAST / size, -SUN_NORTH / size];
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      if (paint[at] === 0 || height[at]! < 0.4) continue;
      const reach = height[at]! / SUN_HEIGHT / cell;
      for (let step = 1; step <= reach; step++) {
        const [c, r] = [Math.round(column + step * de), Math.round(row + step * dn)];
        if (c < 0 || r < 0 || c >= columns || r >= rows) break;
        const there = r * columns + c;
        if (height[there]! < height[at]! - step * cell * SUN_HEIGHT - 0.2) shade[there] = 1;
      }
    }
  return shade;
}

function lit([r, g, b]: Colour, light: number): Colour {
  return [r, g, b].map((value) => Math.max(1, Math.min(255, Math.round(value * light)))) as unknown as Colour;
}

function mixed(one: Colour, two: Colour, share: number): Colour {
  return one.map((value, k) => value + (two[k]! - value) * share) as unknown as Colour;
}

/** Noise of a pixel, 0 to 1. */
function hash(column: number, row: number): number {
  let h = Math.imul(column + 1, 0x9e3779b1) ^ Math.imul(row + 1, 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}
