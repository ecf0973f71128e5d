import { PICTURE_TILE } from '@pampero/contract';
import {
  classMask,
  PointFlag,
  unpackColumns,
  type ColumnName,
  type PointColumns,
  type Quantisation,
} from '@pampero/core/cloud';
import { EIGHT_TO_SIXTEEN, pixelOfPlace, TileSampler, type Placement } from '@pampero/core/imagery';
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

async function samplerOf({ tiles, isPaletted }: PictureLevel): Promise<TileSampler> {
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

export interface ColourTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly names: readonly ColumnName[];
  readonly columns: PointColumns;
  readonly picture: PictureLevel;
  /** None: all. */
  readonly classes: readonly number[];
  readonly withWithheld: boolean;
  /** Points higher over it than `height` are left. */
  readonly surface?:
    { readonly values: Float32Array; readonly frame: RasterFrame; readonly height: number } | undefined;
}

export interface ColouredPart {
  readonly nodes: readonly { readonly nodeId: number; readonly colours: Uint8Array<ArrayBuffer> }[];
  readonly coloured: number;
  readonly outside: number;
  readonly tooHigh: number;
}

/** Colours of the picture for the points of some nodes; what is not coloured keeps the colour it has, or black. */
export async function colourNodes(task: ColourTask): Promise<ColouredPart> {
  const { nodes, quantisation, names, columns, picture, classes, withWithheld, surface } = task;
  const sampler = await samplerOf(picture);
  const toPixel = pixelOfPlace(picture.placement);
  const halves = 2 ** picture.level;
  const mask = classes.length > 0 ? classMask(classes) : undefined;
  const { scale, offset } = quantisation;
  const rgb = new Float64Array(3);
  let [coloured, outside, tooHigh] = [0, 0, 0];
  const done = nodes.map((node) => {
    const { count } = node;
    const { x, y, z } = positionsOf(node);
    const before = unpackColumns(node.attributes!, count, names, columns, ['red', 'green', 'blue']);
    const out = new Uint16Array(3 * count);
    (['red', 'green', 'blue'] as const).forEach((name, band) => {
      if (before[name]) out.set(before[name] as Uint16Array, band * count);
    });
    for (let i = 0; i < count; i++) {
      if (mask && mask[node.classification[i]!] !== 1) continue;
      if (!withWithheld && (node.flags[i]! & PointFlag.withheld) !== 0) continue;
      const [e, n] = [x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1]];
      if (surface && z[i]! * scale[2] + offset[2] - heightAt(surface, e, n) > surface.height) {
        tooHigh++;
        continue;
      }
      const [pc, pr] = toPixel(e, n);
      if (!sampler.sample(pc / halves, pr / halves, rgb)) {
        outside++;
        continue;
      }
      coloured++;
      for (let band = 0; band < 3; band++) out[band * count + i] = Math.round(rgb[band]! * EIGHT_TO_SIXTEEN);
    }
    return { nodeId: node.nodeId, colours: new Uint8Array(out.buffer) };
  });
  return { nodes: done, coloured, outside, tooHigh };
}

/** NaN outside the surface: nothing is higher than that. */
function heightAt(
  { values, frame }: { readonly values: Float32Array; readonly frame: RasterFrame },
  e: number,
  n: number,
): number {
  const [column, row] = [Math.floor((e - frame.east) / frame.cell), Math.floor((n - frame.north) / frame.cell)];
  return column < 0 || row < 0 || column >= frame.columns || row >= frame.rows
    ? NaN
    : values[row * frame.columns + column]!;
}
