import { planTransform, type PlanTransform } from '@pampero/core/geodesy';
import { picturePlan, pixelOfPlace, pixelSize, placeOfPixel, type PictureFrame } from '@pampero/core/imagery';
import { plansOverlap } from '@pampero/core/raster';
import { PlainTiff } from './plain-tiff.js';
import { TileSource } from './tile-source.js';

/** Pixels between the places that are transformed truly; in between a plane system bends by far less than a pixel. */
const STEP = 32;
const STRIP = 256;

export interface Warping {
  /** PROJ strings of the picture's system and the job's. */
  readonly from: string;
  readonly to: string;
}

/** The frame of a picture in another system: north up, its pixels as large as they were. */
export function warpedFrame(frame: PictureFrame, { from, to }: Warping): PictureFrame {
  const forward = planTransform(from, to);
  const [e, n]: [number[], number[]] = [[], []];
  for (let k = 0; k <= STEP; k++)
    for (const [c, r] of [
      [k / STEP, 0],
      [k / STEP, 1],
      [0, k / STEP],
      [1, k / STEP],
    ] as const) {
      const [pe, pn] = placeOfPixel(frame, c * frame.columns, r * frame.rows);
      e.push(pe);
      n.push(pn);
    }
  const middle = [
    [0.5, 0.5],
    [0.5 + 1 / frame.columns, 0.5],
    [0.5, 0.5 + 1 / frame.rows],
  ].map(([c, r]) => placeOfPixel(frame, c! * frame.columns, r! * frame.rows));
  const [me, mn] = [Float64Array.from(middle, ([x]) => x), Float64Array.from(middle, ([, y]) => y)];
  forward(me, mn);
  const size = pixelSize({
    east: 0,
    north: 0,
    eastPerColumn: me[1]! - me[0]!,
    northPerColumn: mn[1]! - mn[0]!,
    eastPerRow: me[2]! - me[0]!,
    northPerRow: mn[2]! - mn[0]!,
  });
  const [te, tn] = [Float64Array.from(e), Float64Array.from(n)];
  forward(te, tn);
  const [west, north] = [Math.min(...te), Math.max(...tn)];
  return {
    east: west,
    eastPerColumn: size,
    eastPerRow: 0,
    north,
    northPerColumn: 0,
    northPerRow: -size,
    columns: Math.ceil((Math.max(...te) - west) / size),
    rows: Math.ceil((north - Math.min(...tn)) / size),
  };
}

/**
 * Resamples a picture, bilinear, into another frame: pixels into one plain TIFF, what of them is picture into another.
 * @param nearest - of a picture whose values stand for a table
 */
export async function warpPicture(
  source: {
    readonly frame: PictureFrame;
    readonly colour: TileSource;
    readonly mask: TileSource | undefined;
    readonly samples: 1 | 3;
  },
  target: { readonly frame: PictureFrame; readonly colour: string; readonly mask: string },
  warping: Warping,
  nearest: boolean,
  onShare: (share: number) => void,
): Promise<void> {
  const back = planTransform(warping.to, warping.from);
  const toPixel = pixelOfPlace(source.frame);
  const { columns, rows } = target.frame;
  const { samples } = source;
  const made = { columns, rows, stripRows: STRIP };
  const colour = await PlainTiff.create(target.colour, { ...made, samples });
  const mask = await PlainTiff.create(target.mask, { ...made, samples: 1 });
  try {
    for (let top = 0; top < rows; top += STRIP) {
      const high = Math.min(STRIP, rows - top);
      const bytes = new Uint8Array(columns * high * samples);
      const known = new Uint8Array(columns * high);
      for (let left = 0; left < columns; left += STRIP) {
        const wide = Math.min(STRIP, columns - left);
        const nodes = controlPlaces(target.frame, left, top, wide, high, back, toPixel);
        await fill(source, nodes, { left, wide, high, columns, bytes, known, nearest });
      }
      await colour.append(bytes);
      await mask.append(known);
      onShare((top + high) / rows);
    }
  } finally {
    await colour.close(rows, STRIP);
    await mask.close(rows, STRIP);
  }
}

interface Nodes {
  readonly across: number;
  readonly c: Float64Array;
  readonly r: Float64Array;
}

/** Where the pixels of a block come from, at every so manieth of them. */
function controlPlaces(
  frame: PictureFrame,
  left: number,
  top: number,
  wide: number,
  high: number,
  back: PlanTransform,
  toPixel: (e: number, n: number) => [number, number],
): Nodes {
  const [across, down] = [Math.ceil(wide / STEP) + 1, Math.ceil(high / STEP) + 1];
  const e = new Float64Array(across * down);
  const n = new Float64Array(across * down);
  for (let j = 0, k = 0; j < down; j++)
    for (let i = 0; i < across; i++, k++)
      [e[k], n[k]] = placeOfPixel(frame, left + i * STEP + 0.5, top + j * STEP + 0.5);
  back(e, n);
  for (let k = 0; k < e.length; k++) [e[k], n[k]] = toPixel(e[k]!, n[k]!);
  return { across, c: e, r: n };
}

async function fill(
  { frame, colour, mask, samples }: Parameters<typeof warpPicture>[0],
  { across, c, r }: Nodes,
  block: {
    readonly left: number;
    readonly wide: number;
    readonly high: number;
    readonly columns: number;
    readonly bytes: Uint8Array;
    readonly known: Uint8Array;
    readonly nearest: boolean;
  },
): Promise<void> {
  const [c0, c1] = [Math.floor(Math.min(...c)) - 2, Math.ceil(Math.max(...c)) + 2];
  const [r0, r1] = [Math.floor(Math.min(...r)) - 2, Math.ceil(Math.max(...r)) + 2];
  const [fromC, toC] = [Math.max(0, c0), Math.min(frame.columns, c1)];
  const [fromR, toR] = [Math.max(0, r0), Math.min(frame.rows, r1)];
  const [width, height] = [toC - fromC, toR - fromR];
  if (width <= 0 || height <= 0) return;
  const pixels = await colour.window(fromC, fromR, width, height, samples);
  const seen = mask ? await mask.window(fromC, fromR, width, height, 1, 255) : undefined;
  const { left, wide, high, columns, bytes, known, nearest } = block;
  for (let y = 0; y < high; y++)
    for (let x = 0; x < wide; x++) {
      const [i, j] = [Math.floor(x / STEP), Math.floor(y / STEP)];
      const [u, v] = [x / STEP - i, y / STEP - j];
      const k = j * across + i;
      const of = (values: Float64Array): number =>
        (1 - v) * ((1 - u) * values[k]! + u * values[k + 1]!) +
        v * ((1 - u) * values[k + across]! + u * values[k + across + 1]!);
      const [pc, pr] = [of(c), of(r)];
      if (pc < 0 || pr < 0 || pc > frame.columns || pr > frame.rows) continue;
      const nc = Math.min(width - 1, Math.max(0, Math.floor(pc) - fromC));
      const nr = Math.min(height - 1, Math.max(0, Math.floor(pr) - fromR));
      if (seen && seen[nr * width + nc]! < 128) continue;
      const to = y * columns + left + x;
      known[to] = 255;
      // Between the centres of four pixels.
      const [fc, fr] = nearest ? [nc, nr] : [pc - 0.5 - fromC, pr - 0.5 - fromR];
      const [a, b] = [
        Math.max(0, Math.min(width - 1, Math.floor(fc))),
        Math.max(0, Math.min(height - 1, Math.floor(fr))),
      ];
      const [a1, b1] = [Math.min(width - 1, a + 1), Math.min(height - 1, b + 1)];
      const [s, t] = [Math.max(0, Math.min(1, fc - a)), Math.max(0, Math.min(1, fr - b))];
      for (let band = 0; band < samples; band++) {
        const at = (cc: number, rr: number): number => pixels[(rr * width + cc) * samples + band]!;
        bytes[to * samples + band] = Math.round(
          (1 - t) * ((1 - s) * at(a, b) + s * at(a1, b)) + t * ((1 - s) * at(a, b1) + s * at(a1, b1)),
        );
      }
    }
}

/** Whether two boxes in plan have land in common. */
export function touches(
  frame: PictureFrame,
  bounds: { readonly min: readonly number[]; readonly max: readonly number[] },
): boolean {
  const [[west, south], [east, north]] = [bounds.min, bounds.max] as [[number, number], [number, number]];
  return plansOverlap(picturePlan(frame), { west, south, east, north });
}
