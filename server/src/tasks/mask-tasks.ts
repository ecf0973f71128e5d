import { classMask, PointFlag, type Quantisation } from '@pampero/core/cloud';
import { inverseOf, PICTURE_TILE, pixelSize, type PictureFrame, type TilePixels } from '@pampero/core/imagery';
import {
  edgeLevels,
  Likeness,
  maskFrom,
  maskRings,
  measureFar,
  stableTolerance,
  type MaskRing,
  type MaskShaping,
  type PickedColours,
  type PickedPixels,
  type PixelWindow,
} from '@pampero/core/masks';
import { piecesOf } from '@pampero/core/raster';
import { decodeTile } from '../imagery/tile-source.js';
import { chosenPoints, type CloudColumns } from './chosen-points.js';
import { positionsOf, type NodeColumns } from './node-columns.js';
import { moveNodes, type MovedPart } from './moving-tasks.js';
import { reliefAt, type EncodedTile, type Relief } from './picture-tasks.js';

/** The colours that were last asked for: tiles of one picture come one after another. */
let last: { readonly key: string; readonly likeness: Likeness } | undefined;

export interface FarTask {
  readonly tiles: readonly EncodedTile[];
  readonly colours: PickedColours['colours'];
  readonly window: PixelWindow;
  /** Quarters of colour difference, a byte a pixel of the window, in memory that tasks share. */
  readonly far: Uint8Array;
}

/** Measures how far the pixels of some tiles are from the colours picked. */
export async function measureFarTiles({ tiles, colours, window, far }: FarTask): Promise<void> {
  const key = JSON.stringify(colours);
  if (last?.key !== key) last = { key, likeness: new Likeness(colours) };
  for (const { x, y, colour, mask: seen } of tiles)
    measureFar(
      await decodeTile(colour),
      seen && (await decodeTile(seen)),
      [x * PICTURE_TILE, y * PICTURE_TILE],
      last.likeness,
      window,
      far,
    );
}

/** Pixels to each side of a picked place that tell its colour. */
const ABOUT = 4;

/** The pixels about places: column and row of each in the level that the tiles are of; none where there is no picture. */
export async function pixelsAbout({
  tiles,
  places,
}: {
  readonly tiles: readonly EncodedTile[];
  readonly places: readonly (readonly [number, number])[];
}): Promise<PickedPixels[]> {
  const decoded = new Map<string, { colour: TilePixels; seen: TilePixels | undefined }>();
  for (const { x, y, colour, mask } of tiles)
    decoded.set(`${x}_${y}`, { colour: await decodeTile(colour), seen: mask && (await decodeTile(mask)) });
  return places.map(([column, row]) => {
    const pixels: [number, number, number][] = [];
    for (let r = Math.floor(row) - ABOUT; r <= Math.floor(row) + ABOUT; r++)
      for (let c = Math.floor(column) - ABOUT; c <= Math.floor(column) + ABOUT; c++) {
        if (c < 0 || r < 0) continue;
        const [x, y] = [Math.floor(c / PICTURE_TILE), Math.floor(r / PICTURE_TILE)];
        const tile = decoded.get(`${x}_${y}`);
        if (!tile) continue;
        const [dc, dr] = [c - x * PICTURE_TILE, r - y * PICTURE_TILE];
        const { data, width, height, samples } = tile.colour;
        if (dc >= width || dr >= height) continue;
        const pixel = dr * width + dc;
        if (tile.seen && tile.seen.data[pixel * tile.seen.samples]! < 128) continue;
        const k = pixel * samples;
        pixels.push(samples < 3 ? [data[k]!, data[k]!, data[k]!] : [data[k]!, data[k + 1]!, data[k + 2]!]);
      }
    return pixels;
  });
}

export interface ShapedMask {
  readonly mask: Uint8Array<ArrayBuffer>;
  readonly rings: readonly MaskRing[];
  /** Square job units. */
  readonly area: number;
  readonly pieces: number;
  readonly tolerance: number;
}

/** A mask from colour differences, made even, with its edges. */
export function shapeMaskOf({
  far,
  tolerance: given,
  least,
  places,
  frame,
  shaping,
}: {
  readonly far: Uint8Array;
  /** Undefined where the picture's own edges tell it. */
  readonly tolerance: number | undefined;
  readonly least: number;
  /** Column and row of each. */
  readonly places: readonly (readonly [number, number])[];
  readonly frame: PictureFrame;
  readonly shaping: MaskShaping;
}): ShapedMask {
  const tolerance = given ?? stableTolerance(far, frame, places, least);
  const mask = maskFrom(far, tolerance, frame, shaping);
  const { cells } = piecesOf(frame, mask, 1, true);
  return {
    mask,
    rings: maskRings(mask, frame),
    area: cells.reduce((sum, count) => sum + count, 0) * pixelSize(frame) ** 2,
    pieces: cells.length,
    tolerance,
  };
}

/** Where the level of each piece of a mask comes from. */
export interface LevelTask {
  readonly mask: Uint8Array;
  readonly frame: PictureFrame;
  /** Typed; undefined where the ground tells it. */
  readonly level: number | undefined;
  readonly clouds: readonly CloudColumns[];
  readonly groundClass: number;
  /** How far outside an edge its ground lies, job units. */
  readonly reach: number;
}

export interface OutlineTask extends LevelTask {
  /** Job units. */
  readonly tolerance: number;
}

/** The edges of a mask as lines with a level each: one of the whole piece. */
export function outlineOfMask(task: OutlineTask): MaskRing[] {
  const { mask, frame, tolerance } = task;
  const levelAt = levelsOf(task);
  return maskRings(mask, frame, tolerance / pixelSize(frame)).map((ring) => {
    const { shape } = ring;
    return { ...ring, shape: { ...shape, elevation: shape.elevation.map(() => levelAt(...ring.pixel)) } };
  });
}

function levelsOf({
  mask,
  frame,
  level,
  clouds,
  groundClass,
  reach,
}: LevelTask): (column: number, row: number) => number {
  if (clouds.length === 0) return () => level ?? NaN;
  const ground = chosenPoints(clouds, classMask([groundClass]));
  return edgeLevels(mask, frame, ground, Math.max(2, Math.ceil(reach / pixelSize(frame))));
}

export interface UnderMaskTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly frame: PictureFrame;
  readonly mask: Uint8Array;
  /** 1 for classes that are changed. */
  readonly takes: Uint8Array;
  /** The class they get: those that have it are left. */
  readonly toClass?: number | undefined;
  readonly surface?: Relief | undefined;
}

/** The points of each node that lie on a mask and may be changed; withheld ones may not. */
export function pointsUnderMask(task: UnderMaskTask): { readonly nodeId: number; readonly indices: Uint32Array }[] {
  const { nodes, quantisation, frame, mask, takes, toClass, surface } = task;
  const { scale, offset } = quantisation;
  const cellAt = cellOf(frame);
  return nodes.flatMap((node) => {
    const { x, y, z } = positionsOf(node);
    const indices: number[] = [];
    for (let i = 0; i < node.count; i++) {
      const code = node.classification[i]!;
      if (takes[code] !== 1 || code === toClass || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
      const [e, n] = [x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1]];
      const at = cellAt(e, n);
      if (at < 0 || mask[at] !== 1) continue;
      if (surface && z[i]! * scale[2] + offset[2] - reliefAt(surface, e, n) > surface.height) continue;
      indices.push(i);
    }
    return indices.length > 0 ? [{ nodeId: node.nodeId, indices: Uint32Array.from(indices) }] : [];
  });
}

/** The level of every cell of a mask, NaN where there is none; and the levels that occur, the largest piece's first. */
export function levelsUnderMask(task: LevelTask): {
  readonly raster: Float64Array<ArrayBuffer>;
  readonly levels: readonly number[];
} {
  const { mask, frame } = task;
  const levelAt = levelsOf(task);
  const raster = new Float64Array(mask.length).fill(NaN);
  const cells = new Map<number, number>();
  for (let at = 0; at < mask.length; at++) {
    if (mask[at] !== 1) continue;
    const value = levelAt(at % frame.columns, Math.floor(at / frame.columns));
    if (Number.isNaN(value)) continue;
    raster[at] = value;
    cells.set(value, (cells.get(value) ?? 0) + 1);
  }
  return { raster, levels: [...cells].sort((a, b) => b[1] - a[1] || a[0] - b[0]).map(([value]) => value) };
}

export interface FlatTask extends Omit<UnderMaskTask, 'mask' | 'toClass' | 'surface'> {
  /** Of every cell of the mask; NaN beside it. */
  readonly levels: Float64Array;
  /** Points that lie further from their level than this stay. */
  readonly reach: number;
}

/** Moves the points of nodes that lie on a mask to its level. */
export function layNodesFlat({ nodes, quantisation, frame, takes, levels, reach }: FlatTask): MovedPart {
  const cellAt = cellOf(frame);
  return moveNodes({ nodes, quantisation }, ({ classification, flags }) => (i, x, y, z, out) => {
    if (takes[classification[i]!] !== 1 || (flags[i]! & PointFlag.withheld) !== 0) return false;
    const at = cellAt(x, y);
    if (at < 0) return false;
    const level = levels[at]!;
    if (!(Math.abs(z - level) <= reach)) return false;
    out[0] = x;
    out[1] = y;
    out[2] = level;
    return true;
  });
}

/** The cell of a mask that a place lies in; -1 outside. */
function cellOf(frame: PictureFrame): (e: number, n: number) => number {
  const { a, b, c, d } = inverseOf(frame);
  return (e, n) => {
    const column = Math.floor(a * (e - frame.east) + b * (n - frame.north));
    const row = Math.floor(c * (e - frame.east) + d * (n - frame.north));
    return column < 0 || row < 0 || column >= frame.columns || row >= frame.rows ? -1 : row * frame.columns + column;
  };
}
