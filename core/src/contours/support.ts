import { columnFrom } from '../columns/index.js';
import { nextSide, type Tin } from '../terrain/index.js';
import type { ContourSet, TracedContours } from './contour-set.js';

/** 1 for facets with a side longer than a limit, in plan: there the ground was seen by few points, and a contour is a guess. */
export function thinFacets({ easting, northing, facets }: Tin, limit: number): Uint8Array {
  const out = new Uint8Array(facets.length / 3);
  for (let h = 0; h < facets.length; h++) {
    const a = facets[h]!;
    const b = facets[nextSide(h)]!;
    if (Math.hypot(easting[a]! - easting[b]!, northing[a]! - northing[b]!) > limit) out[Math.floor(h / 3)] = 1;
  }
  return out;
}

/**
 * Parts contours where they go into and out of thin support; the pieces there are marked as obscured. A surveyor draws such pieces
 * dashed (common practice, no source).
 * @param isThin - 1 for facets of thin support
 * @param shortest - pieces shorter than this, in plan, stay with what is before them; job units
 */
export function partObscured(
  { contours, facetOf }: TracedContours,
  isThin: (facet: number) => boolean,
  shortest: number,
): ContourSet {
  const { level, isIndex, isClosed, isDepression, starts, easting, northing } = contours;
  const out = { level: [], isIndex: [], isClosed: [], isDepression: [], isObscured: [] } as Record<
    'level' | 'isIndex' | 'isClosed' | 'isDepression' | 'isObscured',
    number[]
  >;
  const vertices: number[] = [];
  const begun: number[] = [0];
  for (let l = 0; l < level.length; l++) {
    const [from, to] = [starts[l]!, starts[l + 1]!];
    const runs = runsOf(from, to);
    // A ring that is parted begins where its last and first piece meet, if both are alike.
    const joins = isClosed[l] === 1 && runs.length > 1 && runs[0]!.thin === runs.at(-1)!.thin;
    const pieces = joins ? [...runs.slice(1, -1), { ...runs.at(-1)!, and: runs[0]! }] : runs;
    for (const piece of pieces) {
      for (let v = piece.from; v <= piece.to; v++) vertices.push(v);
      if ('and' in piece) for (let v = piece.and.from + 1; v <= piece.and.to; v++) vertices.push(v);
      out.level.push(level[l]!);
      out.isIndex.push(isIndex[l]!);
      out.isClosed.push(pieces.length === 1 && runs.length === 1 ? isClosed[l]! : 0);
      out.isDepression.push(isDepression[l]!);
      out.isObscured.push(piece.thin ? 1 : 0);
      begun.push(vertices.length);
    }
  }
  return {
    origin: contours.origin,
    level: Float64Array.from(out.level),
    isIndex: Uint8Array.from(out.isIndex),
    isClosed: Uint8Array.from(out.isClosed),
    isDepression: Uint8Array.from(out.isDepression),
    isObscured: Uint8Array.from(out.isObscured),
    starts: Uint32Array.from(begun),
    easting: columnFrom(Float64Array, vertices, (v) => easting[v]!),
    northing: columnFrom(Float64Array, vertices, (v) => northing[v]!),
  };

  /** Stretches alike, from vertex to vertex; neighbours share one. */
  function runsOf(from: number, to: number): { from: number; to: number; thin: boolean }[] {
    const runs: { from: number; to: number; thin: boolean; length: number }[] = [];
    for (let v = from + 1; v < to; v++) {
      const thin = isThin(facetOf[v]!);
      const length = Math.hypot(easting[v]! - easting[v - 1]!, northing[v]! - northing[v - 1]!);
      const last = runs.at(-1);
      if (last?.thin === thin) {
        last.to = v;
        last.length += length;
      } else runs.push({ from: v - 1, to: v, thin, length });
    }
    const kept: typeof runs = [];
    for (const run of runs) {
      const last = kept.at(-1);
      if (last && (run.length < shortest || run.thin === last.thin)) {
        last.to = run.to;
        last.length += run.length;
      } else kept.push({ ...run });
    }
    // The first piece has none before it.
    if (kept.length > 1 && kept[0]!.length < shortest) {
      kept[1]!.from = kept[0]!.from;
      kept.shift();
    }
    return kept;
  }
}
