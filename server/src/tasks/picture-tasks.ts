import {
  classMask,
  PointFlag,
  unpackColumns,
  type ColumnName,
  type PointColumns,
  type Quantisation,
} from '@pampero/core/cloud';
import {
  EIGHT_TO_SIXTEEN,
  inverseOf,
  PICTURE_TILE,
  pixelOfPlace,
  placeOfPixel,
  TileSampler,
  type Placement,
} from '@pampero/core/imagery';
import {
  addWitnesses,
  checkShift,
  lightnessOver,
  witnessesOf,
  type ShiftFound,
  type WitnessSums,
} from '@pampero/core/shifts';
import type { RasterFrame } from '@pampero/core/raster';
import { decodeTile } from '../imagery/tile-source.js';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** A tile as it is kept: encoded. */
export interface EncodedTile {
  readonly x: number;
  readonly y: number;
  readonly colour: Uint8Array;
  readonly mask?: Uint8Array | undefined;
}

/** A level of a picture, as far as it is needed. */
export interface PictureLevel {
  /** Of level 0. */
  readonly placement: Placement;
  readonly level: number;
  readonly isPaletted: boolean;
  readonly tiles: readonly EncodedTile[];
}

export async function samplerOf({ tiles, isPaletted }: PictureLevel): Promise<TileSampler> {
  const sampler = new TileSampler(PICTURE_TILE, isPaletted);
  for (const { x, y, colour, mask } of tiles)
    sampler.add({ x, y, colour: await decodeTile(colour), mask: mask && (await decodeTile(mask)) });
  return sampler;
}

/** How light a picture is in each cell of a frame, 0 to 255; NaN where it is none. */
export async function lightnessOnFrame({
  picture,
  frame,
}: {
  readonly picture: PictureLevel;
  readonly frame: RasterFrame;
}): Promise<Float32Array<ArrayBuffer>> {
  return lightnessOver(await samplerOf(picture), picture.placement, picture.level, frame);
}

/** A block of a picture that is made: samples pixel by pixel, from the north-west; and 255 where there is picture. */
export interface BlockPixels {
  readonly pixels: Uint8Array<ArrayBuffer>;
  readonly known: Uint8Array<ArrayBuffer>;
}

export interface JoinedTask {
  /** The first is seen where several lie over each other. */
  readonly pictures: readonly PictureLevel[];
  /** Of the first pixel of the block. */
  readonly placement: Placement;
  readonly columns: number;
  readonly rows: number;
  readonly samples: 1 | 3;
}

/** A block of several pictures as one. */
export async function joinedBlock({ pictures, placement, columns, rows, samples }: JoinedTask): Promise<BlockPixels> {
  const layers = await Promise.all(
    pictures.map(async (picture) => ({
      sampler: await samplerOf(picture),
      toPixel: pixelOfPlace(picture.placement),
      halves: 2 ** picture.level,
    })),
  );
  const pixels = new Uint8Array(columns * rows * samples);
  const known = new Uint8Array(columns * rows);
  const rgb = new Float64Array(3);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      const [e, n] = placeOfPixel(placement, column + 0.5, row + 0.5);
      for (const { sampler, toPixel, halves } of layers) {
        const [c, r] = toPixel(e, n);
        if (!sampler.sample(c / halves, r / halves, rgb)) continue;
        known[at] = 255;
        for (let band = 0; band < samples; band++) pixels[at * samples + band] = Math.round(rgb[band]!);
        break;
      }
    }
  return { pixels, known };
}

export interface WitnessTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly names: readonly ColumnName[];
  readonly columns: PointColumns;
  readonly sums: WitnessSums;
}

export function gatherWitnesses({ nodes, quantisation, names, columns, sums }: WitnessTask): void {
  const wanted = ['intensity', 'red', 'green', 'blue'] as const;
  for (const node of nodes)
    addWitnesses(sums, {
      ...positionsOf(node),
      ...(unpackColumns(node.attributes!, node.count, names, columns, wanted) as Record<string, Uint16Array>),
      ...quantisation,
      isLeftOut: (i) => (node.flags[i]! & PointFlag.withheld) !== 0,
    });
}

export interface ShiftTask {
  readonly picture: Float32Array;
  readonly sums: WitnessSums;
}

export function findShift({ picture, sums }: ShiftTask): ShiftFound {
  return checkShift(picture, witnessesOf(sums), sums.frame);
}

/** A square of the picture; points that lie outside it belong to those at its edge, so that each has just one. */
export interface PictureBlock {
  readonly x: number;
  readonly y: number;
  /** Pixels along its side. */
  readonly side: number;
  /** Of the last block to the right and at the foot. */
  readonly lastX: number;
  readonly lastY: number;
}

/** The points of a block that are to be coloured. */
export interface BlockTask {
  readonly nodes: readonly NodeColumns[];
  /** Red, green and blue of each node's points, in memory that the blocks share: each writes those of its own points. */
  readonly colours: readonly Uint16Array[];
  readonly block: PictureBlock;
  /** Of the pixels that blocks are counted in. */
  readonly placement: Placement;
  readonly quantisation: Quantisation;
  readonly names: readonly ColumnName[];
  readonly columns: PointColumns;
  /** None: all. */
  readonly classes: readonly number[];
  readonly withWithheld: boolean;
}

/**
 * Colours the points of a block; what is not coloured keeps the colour it has, or black.
 * @param paint - writes the colour of a place, 0 to 255 with fractions, into `rgb`; false where it has none
 * @returns how many were coloured
 */
export function colourEach(
  task: BlockTask,
  paint: (e: number, n: number, z: number, column: number, row: number, rgb: Float64Array) => boolean,
): number {
  const { nodes, colours, block, placement, quantisation, names, columns, classes, withWithheld } = task;
  const toPixel = inverseOf(placement);
  const { east, north } = placement;
  const mask = classes.length > 0 ? classMask(classes) : undefined;
  const { scale, offset } = quantisation;
  const rgb = new Float64Array(3);
  let coloured = 0;
  nodes.forEach((node, k) => {
    const { count, classification, flags } = node;
    const { x, y, z } = positionsOf(node);
    const own = node.attributes ? unpackColumns(node.attributes, count, names, columns, ['red', 'green', 'blue']) : {};
    const before = [own.red, own.green, own.blue] as readonly (Uint16Array | undefined)[];
    const out = colours[k]!;
    for (let i = 0; i < count; i++) {
      const e = x[i]! * scale[0] + offset[0];
      const n = y[i]! * scale[1] + offset[1];
      const column = toPixel.a * (e - east) + toPixel.b * (n - north);
      const row = toPixel.c * (e - east) + toPixel.d * (n - north);
      if (blockAt(column, block.side, block.lastX) !== block.x || blockAt(row, block.side, block.lastY) !== block.y)
        continue;
      const isAsked =
        (!mask || mask[classification[i]!] === 1) && (withWithheld || (flags[i]! & PointFlag.withheld) === 0);
      const isColoured = isAsked && paint(e, n, z[i]! * scale[2] + offset[2], column, row, rgb);
      if (isColoured) coloured++;
      for (let band = 0; band < 3; band++)
        out[band * count + i] = isColoured ? Math.round(rgb[band]! * EIGHT_TO_SIXTEEN) : (before[band]?.[i] ?? 0);
    }
  });
  return coloured;
}

export interface ColourTask extends Omit<BlockTask, 'placement'> {
  readonly picture: PictureLevel;
  /** Points higher over it than `height` are left. */
  readonly surface?: Relief | undefined;
}

/** A surface as a grid, and how high over it points may lie. */
export interface Relief {
  readonly values: Float32Array;
  readonly frame: RasterFrame;
  readonly height: number;
}

export interface ColouredPart {
  readonly coloured: number;
  readonly outside: number;
  readonly tooHigh: number;
}

/** Colours of the picture for the points of a block. */
export async function colourBlock(task: ColourTask): Promise<ColouredPart> {
  const { picture, surface } = task;
  const sampler = await samplerOf(picture);
  let [outside, tooHigh] = [0, 0];
  const coloured = colourEach({ ...task, placement: picture.placement }, (e, n, z, column, row, rgb) => {
    if (surface && z - reliefAt(surface, e, n) > surface.height) tooHigh++;
    else if (sampler.sample(column, row, rgb)) return true;
    else outside++;
    return false;
  });
  return { coloured, outside, tooHigh };
}

/** The block along one axis that a pixel coordinate belongs to. */
export function blockAt(pixel: number, side: number, last: number): number {
  const block = Math.floor(pixel / side);
  return block < 0 ? 0 : block > last ? last : block;
}

/** NaN outside the surface: nothing is higher than that. */
export function reliefAt(
  { values, frame }: { readonly values: Float32Array; readonly frame: RasterFrame },
  e: number,
  n: number,
): number {
  const [column, row] = [Math.floor((e - frame.east) / frame.cell), Math.floor((n - frame.north) / frame.cell)];
  return column < 0 || row < 0 || column >= frame.columns || row >= frame.rows
    ? NaN
    : values[row * frame.columns + column]!;
}
