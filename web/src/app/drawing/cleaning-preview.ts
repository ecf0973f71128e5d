import { marginOf, runFilter, type Places } from '@pampero/core/cleaning';
import { PointFlag } from '@pampero/core/cloud';
import type { SceneCloud } from './level-of-detail';
import type { NodeCache } from './node-cache';
import { exactPoint, type CachedNode } from './point-cache';
import type { Corridor, HeightBand, PreviewAnswer, PreviewRequest } from './viewer-questions';

/** Points judged at once: so many take a fraction of a second. */
const MOST_JUDGED = 400_000;
/** Found points that the page rings. */
const MOST_RINGED = 300;
/** Points of nodes that are looked through for them. */
const MOST_LOOKED_AT = 6_000_000;

interface Gathered {
  readonly key: string;
  readonly places: Places;
  readonly judged: number;
  readonly own: readonly { readonly cached: CachedNode; readonly indices: Uint32Array }[];
}

/**
 * Tries a search on a corridor of land with every point that lies there, whatever the view draws of them, and marks what it would
 * find. The points are gathered once; a moved parameter costs the search alone.
 */
export class CleaningPreview {
  private gathered: Gathered | undefined;
  private marked: CachedNode[] = [];

  constructor(
    private readonly cache: NodeCache,
    /** Lengths in the scene are about this. */
    private readonly origin: () => readonly [number, number, number],
  ) {}

  clear(): void {
    for (const cached of this.marked) {
      cached.found = undefined;
      cached.colouredAt = -1;
    }
    this.marked = [];
  }

  async run(
    { filter, region, leftOut, cloudId }: PreviewRequest,
    clouds: readonly SceneCloud[],
  ): Promise<PreviewAnswer | undefined> {
    const begun = performance.now();
    const shown = clouds.find(({ cloud }) => cloud.id === cloudId);
    if (!shown) return undefined;
    const margin = filter.kind === 'height-band' ? 0 : marginOf(filter);
    const [ox, oy, oz] = this.origin();
    const strip = new Strip(
      { ...region, a: [region.a[0] - ox, region.a[1] - oy], b: [region.b[0] - ox, region.b[1] - oy] },
      margin,
    );
    const nodes = shown.nodes.filter((node) => strip.mayHold(node.low, node.high));
    const tooMany = { found: 0, places: [], judged: 0, milliseconds: performance.now() - begun, isTooMany: true };
    if (nodes.reduce((sum, { count }) => sum + count, 0) > MOST_LOOKED_AT) return tooMany;
    const loaded = await Promise.all(nodes.map((node) => this.cache.load(shown.cloud, node)));
    const present = loaded.filter((cached) => cached !== undefined);
    if (filter.kind === 'unreliable')
      await Promise.all(present.map((cached) => this.cache.fetchColumn(cached, 'confidence')));
    const key = JSON.stringify([
      cloudId,
      region,
      margin,
      leftOut,
      this.cache.marksEdition,
      present.length,
      filter.kind === 'unreliable',
    ]);
    if (this.gathered?.key !== key) this.gathered = gather(key, present, strip, leftOut);
    const { places, judged, own } = this.gathered;
    if (judged > MOST_JUDGED) return { ...tooMany, judged };
    this.clear();
    const mask =
      filter.kind === 'height-band'
        ? places.z.subarray(0, judged).map((z) => Number(isBetween(z + oz, filter)))
        : judged === 0
          ? new Uint8Array(0)
          : runFilter(filter, places, judged);
    let found = 0;
    const ringed: [number, number, number][] = [];
    let at = 0;
    for (const { cached, indices } of own) {
      const marks = new Uint8Array(cached.node.count);
      for (const i of indices) {
        if (mask[at++] === 0) continue;
        marks[i] = 1;
        found++;
        if (ringed.length < MOST_RINGED) {
          const { easting, northing, elevation } = exactPoint(cached, i);
          ringed.push([easting, northing, elevation]);
        }
      }
      cached.found = marks;
      cached.colouredAt = -1;
      this.marked.push(cached);
    }
    return { found, places: ringed, judged, milliseconds: performance.now() - begun, isTooMany: false };
  }
}

function isBetween(elevation: number, { from = -Infinity, to = Infinity }: HeightBand): boolean {
  return elevation >= from && elevation <= to;
}

/** A corridor with its margin, in scene coordinates. */
class Strip {
  private readonly length: number;
  private readonly ux: number;
  private readonly uy: number;

  constructor(
    private readonly corridor: Corridor,
    private readonly margin: number,
  ) {
    const { a, b } = corridor;
    this.length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    this.ux = this.length === 0 ? 1 : (b[0] - a[0]) / this.length;
    this.uy = this.length === 0 ? 0 : (b[1] - a[1]) / this.length;
  }

  /** 2 for the corridor itself, 1 for its margin, 0 beyond. */
  placeOf(x: number, y: number): 0 | 1 | 2 {
    const { a, half } = this.corridor;
    const [dx, dy] = [x - a[0], y - a[1]];
    const along = dx * this.ux + dy * this.uy;
    const across = Math.abs(dy * this.ux - dx * this.uy);
    if (along >= 0 && along <= this.length && across <= half) return 2;
    const { margin } = this;
    return along >= -margin && along <= this.length + margin && across <= half + margin ? 1 : 0;
  }

  /** False where a box certainly has none of it: by its distance from the line. */
  mayHold(low: readonly number[], high: readonly number[]): boolean {
    const { a, half } = this.corridor;
    const [cx, cy] = [(low[0]! + high[0]!) / 2 - a[0], (low[1]! + high[1]!) / 2 - a[1]];
    const [rx, ry] = [(high[0]! - low[0]!) / 2, (high[1]! - low[1]!) / 2];
    const along = cx * this.ux + cy * this.uy;
    const across = cy * this.ux - cx * this.uy;
    const reach = half + this.margin;
    return (
      Math.abs(across) - (rx * Math.abs(this.uy) + ry * Math.abs(this.ux)) <= reach &&
      along + rx * Math.abs(this.ux) + ry * Math.abs(this.uy) >= -this.margin &&
      along - rx * Math.abs(this.ux) - ry * Math.abs(this.uy) <= this.length + this.margin
    );
  }
}

/** The corridor's own points first, then those of the margin about it; scene coordinates. */
function gather(key: string, nodes: readonly CachedNode[], strip: Strip, leftOut: readonly number[]): Gathered {
  const takes = new Uint8Array(256).fill(1);
  for (const code of leftOut) takes[code] = 0;
  const parts = nodes.map((cached) => {
    const { classes, flags, points, centre } = cached;
    const own: number[] = [];
    const around: number[] = [];
    for (let i = 0; i < points.count; i++) {
      if (takes[classes[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
      const x = points.x[i]! + centre[0];
      const y = points.y[i]! + centre[1];
      const place = strip.placeOf(x, y);
      if (place === 2) own.push(i);
      else if (place === 1) around.push(i);
    }
    return { cached, indices: Uint32Array.from(own), around };
  });
  const judged = parts.reduce((sum, { indices }) => sum + indices.length, 0);
  const count = parts.reduce((sum, { around }) => sum + around.length, judged);
  const places = {
    count,
    x: new Float64Array(count),
    y: new Float64Array(count),
    z: new Float64Array(count),
    confidence: new Float32Array(count).fill(NaN),
  };
  let at = 0;
  const put = ({ points, centre, columns }: CachedNode, indices: ArrayLike<number>): void => {
    const bytes = columns.get('confidence');
    const sure = bytes && new Float32Array(bytes);
    for (let k = 0; k < indices.length; k++) {
      const i = indices[k]!;
      if (sure) places.confidence[at] = sure[i]!;
      places.x[at] = points.x[i]! + centre[0];
      places.y[at] = points.y[i]! + centre[1];
      places.z[at++] = points.z[i]! + centre[2];
    }
  };
  for (const { cached, indices } of parts) put(cached, indices);
  for (const { cached, around } of parts) put(cached, around);
  return { key, places, judged, own: parts.filter(({ indices }) => indices.length > 0) };
}
