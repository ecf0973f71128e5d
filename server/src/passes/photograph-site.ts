import type { Photograph, ProductOf } from '@pampero/contract';
import { PICTURE_TILE, type PictureTile } from '@pampero/core/imagery';
import {
  axesOf,
  depthFrame,
  NOTHING_SEEN,
  Projector,
  type AngleConvention,
  type Box,
  type Camera,
} from '@pampero/core/photographs';
import { toRadians, wrapAngle } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { decodeTile } from '../imagery/tile-source.js';
import { sharedBytes, sharedIntegers } from '../shared-memory.js';
import type { Models } from '../store/models.js';
import { readTile } from '../store/picture-repository.js';
import { readProduct, readProductBlob } from '../store/product-repository.js';
import type { PosedPhotograph } from '../tasks/photograph-tasks.js';

/** Photographs with their cameras, made ready to look at a cloud. */
export interface PhotographSite {
  readonly product: ProductOf<'photographs'>;
  readonly photographs: readonly Photograph[];
  readonly posed: readonly PosedPhotograph[];
  readonly projectors: readonly Projector[];
  /** Nearest things of all photographs one after another. */
  readonly depths: Int32Array;
  /** The level that colours are read at: no finer than the points lie apart. */
  readonly levels: readonly number[];
}

/** Cells of depth pictures are at least so many points wide: some of them fall into nearly each. */
const POINTS_A_CELL = 2;
/** Memory for depth pictures; with more photographs their cells become larger. */
const MOST_DEPTHS = 60_000_000;

/** The camera of a photograph. */
export function cameraOf(
  { camera }: Pick<ProductOf<'photographs'>['facts'], 'camera'>,
  { columns, rows }: Pick<Photograph, 'columns' | 'rows'>,
): Camera {
  const { principalRight, principalDown, ...lens } = camera;
  return {
    ...lens,
    columns,
    rows,
    principalColumn: columns / 2 + principalRight,
    principalRow: rows / 2 + principalDown,
  };
}

export async function readPhotographs(models: Models, productId: number): Promise<Photograph[]> {
  return JSON.parse((await readProductBlob(models, productId, 'list')).toString()) as Photograph[];
}

/**
 * @param spacing - how far the points of the cloud lie apart
 * @throws PamperoError `photographs-apart` where none is near the cloud
 */
export async function photographSite(
  models: Models,
  productId: number,
  bounds: Box,
  spacing: number,
): Promise<PhotographSite> {
  const product = await readProduct(models, productId, 'photographs');
  const photographs = await readPhotographs(models, productId);
  const projectors = photographs.map((photograph) => new Projector(cameraOf(product.facts, photograph), photograph));
  if (!projectors.some((projector) => projector.window(bounds)))
    throw new PamperoError('photographs-apart', {
      what: `None of the ${photographs.length} photographs of “${product.name}” looks at the cloud.`,
      fix: 'Check the coordinate system of their positions, and how their angles are meant.',
    });
  // A cell of the depth picture, and a pixel, as they lie on the land in the middle of the cloud.
  const pixels = photographs.map((photograph, k) => {
    return (spacing * projectors[k]!.camera.focal) / distanceTo(bounds, photograph);
  });
  const cellsOf = (wider: number): number[] => pixels.map((each) => Math.max(1, wider * POINTS_A_CELL * each));
  const sizeOf = (cells: readonly number[]): number =>
    cells.reduce((sum, cell, k) => {
      const { columns, rows } = depthFrame(projectors[k]!.camera, cell);
      return sum + columns * rows;
    }, 0);
  const size = sizeOf(cellsOf(1));
  const cells = cellsOf(Math.max(1, 1.05 * Math.sqrt(size / MOST_DEPTHS)));
  const depths = sharedIntegers(sizeOf(cells)).fill(NOTHING_SEEN);
  let start = 0;
  const posed = photographs.map((photograph, k): PosedPhotograph => {
    const { camera } = projectors[k]!;
    const depthStart = start;
    const { columns, rows } = depthFrame(camera, cells[k]!);
    start += columns * rows;
    const { east, north, up, axes } = photograph;
    return { camera, pose: { east, north, up, axes }, depthCell: cells[k]!, depthStart, gains: [1, 1, 1] };
  });
  const levels = photographs.map((photograph, k) =>
    Math.max(0, Math.min(photograph.levels - 1, Math.floor(Math.log2(Math.max(1, pixels[k]! / 2))))),
  );
  return { product, photographs, posed, projectors, depths, levels };
}

/** A camera that looks less steeply down than this sine of an angle sees land far and near. */
const STEEP = 0.2;

/** How far away what a photograph shows is, about: along its axis down to the land; of one that looks level, the nearest of the cloud. */
export function distanceTo(
  { min, max }: Box,
  { east, north, up, axes }: Pick<Photograph, 'east' | 'north' | 'up' | 'axes'>,
): number {
  const size = Math.hypot(...[0, 1, 2].map((axis) => max[axis]! - min[axis]!));
  const [over, down] = [up - (min[2] + max[2]) / 2, -axes[8]!];
  // Among the points themselves nothing is nearer than a part of the cloud.
  const least = size / 50;
  if (down > STEEP && over > 0) return Math.max(least, over / down);
  const beside = [east, north, up].map((value, axis) => Math.max(min[axis]! - value, 0, value - max[axis]!));
  return Math.max(size / 8, Math.hypot(...beside));
}

/** Decoded tiles that are kept, each three quarters of a megabyte: blocks beside each other are seen by the same photographs. */
const MOST_TILES = 250;

/** Tiles of photographs, decoded once into memory that threads share; the longest unused are dropped. */
export class SharedTiles {
  private readonly kept = new Map<string, Promise<PictureTile | undefined>>();

  constructor(
    private readonly models: Models,
    private readonly productId: number,
  ) {}

  get(k: number, level: number, x: number, y: number): Promise<PictureTile | undefined> {
    const key = `${k} ${level} ${x} ${y}`;
    const tile = this.kept.get(key) ?? this.read(k, level, x, y);
    this.kept.delete(key);
    this.kept.set(key, tile);
    if (this.kept.size > MOST_TILES) this.kept.delete(this.kept.keys().next().value!);
    return tile;
  }

  private async read(k: number, level: number, x: number, y: number): Promise<PictureTile | undefined> {
    const bytes = await readTile(this.models, this.productId, { part: `photograph-${k}`, level, x, y });
    if (!bytes) return undefined;
    const colour = await decodeTile(bytes);
    const data = sharedBytes(colour.data.length);
    data.set(colour.data);
    return { x, y, colour: { ...colour, data } };
  }
}

/** The tiles of a photograph that land between bounds is seen in, with the pixel around them that bilinear reading wants. */
export async function tilesOver(
  shared: SharedTiles,
  { projectors, levels, photographs }: PhotographSite,
  k: number,
  bounds: Box,
): Promise<PictureTile[]> {
  const window = projectors[k]!.window(bounds);
  if (!window) return [];
  const level = levels[k]!;
  const { columns, rows } = photographs[k]!;
  const range = ([first, last]: [number, number], size: number): [number, number] => {
    const side = PICTURE_TILE * 2 ** level;
    return [
      Math.max(0, Math.floor(first / side - 1 / PICTURE_TILE)),
      Math.min(Math.ceil(size / side) - 1, Math.floor(last / side + 1 / PICTURE_TILE)),
    ];
  };
  const [[x0, x1], [y0, y1]] = [range(window.columns, columns), range(window.rows, rows)];
  const tiles: Promise<PictureTile | undefined>[] = [];
  for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++) tiles.push(shared.get(k, level, x, y));
  return (await Promise.all(tiles)).filter((tile) => tile !== undefined);
}

/** Another way to read the three angles of a list, in words that say what to choose. */
export interface Otherway {
  readonly words: string;
  readonly axes: (angles: Photograph['angles']) => number[];
}

const BY_KIND: Readonly<Record<AngleConvention, string>> = {
  'omega-phi-kappa': 'omega, phi and kappa',
  platform: 'roll, pitch and heading of an aircraft',
  'camera-axis': 'heading, pitch and roll of the camera itself',
};

/** The ways in which lists of this kind are often meant otherwise than they are read. */
export function otherwaysOf(kind: AngleConvention): Otherway[] {
  const plain = (['omega-phi-kappa', 'platform', 'camera-axis'] as const)
    .filter((other) => other !== kind)
    .map((other): Otherway => ({ words: BY_KIND[other], axes: ([a, b, c]) => axesOf(other, a, b, c) }));
  const units: Otherway[] = [
    { words: 'gon in place of degrees', axes: ([a, b, c]) => axesOf(kind, 0.9 * a, 0.9 * b, 0.9 * c) },
    { words: 'degrees in place of gon', axes: ([a, b, c]) => axesOf(kind, a / 0.9, b / 0.9, c / 0.9) },
    { words: 'the last angle counted the other way', axes: ([a, b, c]) => axesOf(kind, a, b, wrapAngle(-c)) },
    { words: 'the first two angles exchanged', axes: ([a, b, c]) => axesOf(kind, b, a, c) },
    { words: 'the first two angles counted the other way', axes: ([a, b, c]) => axesOf(kind, -a, -b, c) },
  ];
  const turned = [90, 180, -90].map((turn): Otherway => ({
    words: `a camera turned by ${turn}° about its axis`,
    axes: ([a, b, c]) =>
      kind === 'camera-axis' ? axesOf(kind, a + toRadians(turn), b, c) : axesOf(kind, a, b, c + toRadians(turn)),
  }));
  return [...plain, ...units, ...turned];
}
