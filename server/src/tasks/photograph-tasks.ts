import { NOISE_CLASSES, PointFlag, type Quantisation } from '@pampero/core/cloud';
import { PICTURE_TILE, TileSampler, type PictureTile, type TilePixels } from '@pampero/core/imagery';
import {
  agreementOf,
  depthFrame,
  DepthPicture,
  OverlapSums,
  Projector,
  SeenBest,
  type Agreement,
  type Camera,
  type ColourSource,
  type PairSums,
  type Pose,
  type SeeingPhotograph,
} from '@pampero/core/photographs';
import { decodeTile } from '../imagery/tile-source.js';
import { positionsOf, type NodeColumns } from './node-columns.js';
import { colourEach, type BlockTask } from './picture-tasks.js';

/** A photograph as tasks are told of it. */
export interface PosedPhotograph {
  readonly camera: Camera;
  readonly pose: Pose;
  /** Pixels along the side of a cell of its depth picture, and where that begins among all. */
  readonly depthCell: number;
  readonly depthStart: number;
  readonly gains: readonly [number, number, number];
}

export interface DepthTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly photographs: readonly PosedPhotograph[];
  /** Of all photographs one after another, in memory that threads share. */
  readonly depths: Int32Array;
}

/** Enters the points of some nodes into the depth pictures of all photographs that may see them. */
export function enterDepths({ nodes, quantisation, photographs, depths }: DepthTask): void {
  const { scale, offset } = quantisation;
  const place = new Float64Array(3);
  const seeing = photographs.map((photograph) => ({
    projector: new Projector(photograph.camera, photograph.pose),
    picture: depthPictureOf(photograph, depths),
  }));
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    const [middle, radius] = ballAround(x, y, z, quantisation);
    const near = seeing.filter(({ projector }) => projector.maySee(middle[0]!, middle[1]!, middle[2]!, radius));
    for (let i = 0; i < node.count; i++) {
      if ((node.flags[i]! & PointFlag.withheld) !== 0 || NOISE_CLASSES.includes(node.classification[i]!)) continue;
      const e = x[i]! * scale[0] + offset[0];
      const n = y[i]! * scale[1] + offset[1];
      const h = z[i]! * scale[2] + offset[2];
      for (const { projector, picture } of near)
        if (projector.see(e, n, h, place)) picture.enter(place[0]!, place[1]!, place[2]!);
    }
  }
}

function depthPictureOf({ camera, depthCell, depthStart }: PosedPhotograph, depths: Int32Array): DepthPicture {
  const frame = depthFrame(camera, depthCell);
  return new DepthPicture(frame, depths.subarray(depthStart, depthStart + frame.columns * frame.rows));
}

function ballAround(x: Int32Array, y: Int32Array, z: Int32Array, { scale, offset }: Quantisation): [number[], number] {
  const ranges = [x, y, z].map((values, axis) => {
    let [least, most] = [Infinity, -Infinity];
    for (const value of values) {
      if (value < least) least = value;
      if (value > most) most = value;
    }
    return [least * scale[axis]! + offset[axis]!, most * scale[axis]! + offset[axis]!] as const;
  });
  return [ranges.map(([a, b]) => (a + b) / 2), Math.hypot(...ranges.map(([a, b]) => (b - a) / 2))];
}

export interface OverlapTask {
  /** An even sample of the cloud. */
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly photographs: readonly PosedPhotograph[];
  readonly depths: Int32Array;
  /** The smallest tile of each: all of it. */
  readonly smallest: readonly { readonly bytes: Uint8Array; readonly level: number }[];
  /** Poses read in other ways, of the photographs from `first` on. */
  readonly otherways: readonly (readonly Pose[])[];
  readonly first: number;
}

export interface Overlaps {
  readonly pairs: readonly PairSums[];
  /** As they were read, with what stands before what. */
  readonly agreement: Agreement;
  /** Of some photographs without looking at what stands before what: as they were read, then in each other way. */
  readonly asRead: Agreement;
  readonly otherways: readonly Agreement[];
}

/** More photographs than this are compared at half the size, so that they fit in memory together. */
const MANY = 200;

/** Every other pixel of every other row. */
function halved({ data, width, height, samples }: TilePixels): TilePixels {
  const [columns, rows] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  const out = new Uint8Array(columns * rows * samples);
  for (let row = 0, to = 0; row < rows; row++)
    for (let column = 0; column < columns; column++)
      for (let band = 0; band < samples; band++, to++) out[to] = data[(2 * row * width + 2 * column) * samples + band]!;
  return { data: out, width: columns, height: rows, samples };
}

/** Other ways to read the angles are tried at only one point in so many. */
const EVERY = 6;

/** What photographs say of points that more than one of them sees; and whether they would agree better, were their angles meant otherwise. */
export async function overlapsOf(task: OverlapTask): Promise<Overlaps> {
  const { photographs, smallest, depths, otherways, first } = task;
  const isMany = smallest.length > MANY;
  const sources = await Promise.all(
    smallest.map(async ({ bytes }) => {
      const colour = await decodeTile(bytes);
      return samplerOfTiles([{ x: 0, y: 0, colour: isMany ? halved(colour) : colour }]);
    }),
  );
  const all = photographs.map((photograph, k) =>
    seeingOf(photograph, sources[k]!, smallest[k]!.level + (isMany ? 1 : 0), depths),
  );
  const pairs = sumsOver(task, all, (k) => k);
  const part = all.slice(first, first + (otherways[0]?.length ?? 0));
  const asIn = (poses: readonly Pose[]): Agreement =>
    agreementOf(
      sumsOver(
        task,
        part.map((seeing, k) => ({
          ...seeing,
          depth: undefined,
          projector: new Projector(seeing.projector.camera, poses[k]!),
        })),
        (k) => first + k,
        EVERY,
      ),
    );
  return {
    pairs,
    agreement: agreementOf(pairs),
    asRead: asIn(part.map(({ projector }) => projector.pose)),
    otherways: otherways.map(asIn),
  };
}

function sumsOver(
  { nodes, quantisation: { scale, offset }, photographs }: OverlapTask,
  seeing: readonly SeeingPhotograph[],
  indexOf: (k: number) => number,
  every = 1,
): PairSums[] {
  const best = new SeenBest(seeing);
  const sums = new OverlapSums(photographs.length);
  const index = seeing.map((_, k) => indexOf(k));
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (let i = 0; i < node.count; i += every)
      if ((node.flags[i]! & PointFlag.withheld) === 0)
        if (best.look(x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1], z[i]! * scale[2] + offset[2]) > 1)
          sums.add(best, index);
  }
  return sums.list();
}

function seeingOf(
  photograph: PosedPhotograph,
  source: ColourSource,
  level: number,
  depths: Int32Array,
): SeeingPhotograph {
  return {
    projector: new Projector(photograph.camera, photograph.pose),
    source,
    shrunk: 2 ** level,
    depth: depthPictureOf(photograph, depths),
    depthCell: photograph.depthCell,
    gains: photograph.gains,
  };
}

function samplerOfTiles(tiles: readonly PictureTile[]): TileSampler {
  const sampler = new TileSampler(PICTURE_TILE, false);
  for (const tile of tiles) sampler.add(tile);
  return sampler;
}

export interface PhotographColourTask extends BlockTask {
  readonly photographs: readonly (PosedPhotograph & {
    readonly tiles: readonly PictureTile[];
    readonly level: number;
  })[];
  readonly depths: Int32Array;
}

/** Colours of the photographs for the points of a block. */
export function colourBlockFromPhotographs(task: PhotographColourTask): {
  readonly coloured: number;
  readonly unseen: number;
} {
  const best = new SeenBest(
    task.photographs.map((photograph) =>
      seeingOf(photograph, samplerOfTiles(photograph.tiles), photograph.level, task.depths),
    ),
  );
  let unseen = 0;
  const coloured = colourEach(task, (e, n, z, _column, _row, rgb) => {
    if (best.look(e, n, z) > 0) {
      best.mix(rgb);
      return true;
    }
    unseen++;
    return false;
  });
  return { coloured, unseen };
}
