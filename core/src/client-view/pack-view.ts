import { packArrays, unpackArrays } from '../binary/index.js';
import type { RasterFrame } from '../raster/index.js';

/** Lines one after another: the vertices of line k are those from `starts[k]` to before `starts[k + 1]`. */
export interface ViewLines {
  readonly starts: Uint32Array;
  /** Kind of each line, as the page names it. */
  readonly kind: Uint8Array;
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly z: Float32Array;
}

export interface ViewPoints {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly z: Float32Array;
  /** Red, green and blue of each, one after another. */
  readonly colour: Uint8Array;
}

/** The land a client's page shows: heights over `base` at the centres of cells, voids NaN. */
export interface ViewLand {
  readonly frame: RasterFrame;
  readonly base: number;
  readonly heights: Float32Array;
}

/** What lies on the land, in job units from the frame's corner and over `base`. */
export interface ViewExtras {
  readonly lines: ViewLines;
  readonly points: ViewPoints;
}
export type ViewContent = ViewLand & ViewExtras;

const VOID = 0xffff;
/** Steps a coordinate is told in; the last is kept for voids. */
const STEPS = 0xfffe;

/** Values in whole steps from the lowest. */
interface Scale {
  readonly low: number;
  readonly step: number;
}

/**
 * The land in small: 16 bits a height over its range, as differences from cell to cell, so that what packs bytes finds little to
 * keep.
 */
export function packLand({ frame, base, heights }: ViewLand): Uint8Array<ArrayBuffer> {
  const scale = scaleOf([heights]);
  return packArrays({ heights: differences(quantised(heights, scale), frame.columns) }, { frame, base, scale });
}

/** The reverse of {@link packLand}, to half a step. */
export function unpackLand(bytes: Uint8Array): ViewLand {
  const { arrays, facts } = unpackArrays(bytes);
  const { frame, base, scale } = facts as Omit<ViewLand, 'heights'> & { readonly scale: Scale };
  return { frame, base, heights: restored(summed(arrays['heights'] as Uint16Array, frame.columns), scale) };
}

/** Lines and points in small, as {@link packLand}; in plan a step is a centimetre over 650 m. */
export function packExtras({ lines, points }: ViewExtras, frame: RasterFrame): Uint8Array<ArrayBuffer> {
  const height = scaleOf([lines.z, points.z]);
  const plan = { low: 0, step: (Math.max(frame.columns, frame.rows) * frame.cell) / STEPS };
  return packArrays(
    {
      starts: lines.starts,
      kind: lines.kind,
      lineX: runs(quantised(lines.x, plan)),
      lineY: runs(quantised(lines.y, plan)),
      lineZ: runs(quantised(lines.z, height)),
      pointX: quantised(points.x, plan),
      pointY: quantised(points.y, plan),
      pointZ: quantised(points.z, height),
      colour: points.colour,
    },
    { height, plan },
  );
}

/** The reverse of {@link packExtras}, to half a step. */
export function unpackExtras(bytes: Uint8Array): ViewExtras {
  const { arrays, facts } = unpackArrays(bytes);
  const { height, plan } = facts as { readonly height: Scale; readonly plan: Scale };
  const of = (name: string): Uint16Array => arrays[name] as Uint16Array;
  return {
    lines: {
      starts: arrays['starts'] as Uint32Array,
      kind: arrays['kind'] as Uint8Array,
      x: restored(summedRun(of('lineX')), plan),
      y: restored(summedRun(of('lineY')), plan),
      z: restored(summedRun(of('lineZ')), height),
    },
    points: {
      x: restored(of('pointX'), plan),
      y: restored(of('pointY'), plan),
      z: restored(of('pointZ'), height),
      colour: arrays['colour'] as Uint8Array,
    },
  };
}

function scaleOf(lists: readonly Float32Array[]): Scale {
  let [low, high] = [Infinity, -Infinity];
  for (const values of lists)
    for (const value of values) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
  return low <= high ? { low, step: Math.max((high - low) / STEPS, 1e-9) } : { low: 0, step: 1 };
}

// Plain loops: a function called for each of a million cells would be most of the time until a page is seen.

function quantised(values: Float32Array, { low, step }: Scale): Uint16Array {
  const out = new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    out[i] = value !== value ? VOID : Math.max(0, Math.min(STEPS, Math.round((value - low) / step)));
  }
  return out;
}

function restored(values: Uint16Array, { low, step }: Scale): Float32Array {
  const out = new Float32Array(values.length);
  for (let i = 0; i < values.length; i++) out[i] = values[i] === VOID ? NaN : low + values[i]! * step;
  return out;
}

/** Each cell less the one before it in its row, the first of a row less the one below; modulo 2^16. */
function differences(values: Uint16Array, columns: number): Uint16Array {
  const out = new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) out[i] = values[i]! - before(values, i, columns);
  return out;
}

function summed(values: Uint16Array, columns: number): Uint16Array {
  const out = new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) out[i] = values[i]! + before(out, i, columns);
  return out;
}

const before = (values: Uint16Array, i: number, columns: number): number =>
  i % columns === 0 ? (values[i - columns] ?? 0) : values[i - 1]!;

const runs = (values: Uint16Array): Uint16Array => differences(values, values.length + 1);
const summedRun = (values: Uint16Array): Uint16Array => summed(values, values.length + 1);
