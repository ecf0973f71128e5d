import { describe, expect, test } from 'vitest';
import { packColumns } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import { summarise, mergeDifferences, newDifferenceSums, surfaceDifference } from '@pampero/core/thinning';
import type { NodeColumns } from './node-columns.js';
import { isFurther, layThinned, placesOf, surfacePoints, thinnedDifference } from './thinning-tasks.js';

const QUANTISATION = { scale: [0.01, 0.01, 0.001], offset: [5_000_000, 6_000_000, 100] } as const;
const SIDE = 25;
const takes = new Uint8Array(256);
takes[2] = 1;

/** Points of a rolling field in some nodes; one in nine is no ground, one in fifty withheld. */
function field(count: number, nodes: number): NodeColumns[] {
  const random = seededRandom(17);
  return Array.from({ length: nodes }, (_, k) => {
    const own = Math.floor(count / nodes);
    const x = Int32Array.from({ length: own }, () => Math.floor(random() * 10_000));
    const y = Int32Array.from({ length: own }, () => Math.floor(random() * 7_500));
    const z = Int32Array.from(x, (e, i) => Math.round(1000 * Math.sin(e / 1500) + 600 * Math.cos(y[i]! / 900)));
    return {
      nodeId: k + 1,
      count: own,
      geometry: packColumns([{ values: x }, { values: y }, { values: z }]),
      classification: Uint8Array.from({ length: own }, (__, i) => (i % 9 === 0 ? 5 : 2)),
      flags: Uint8Array.from({ length: own }, (__, i) => (i % 50 === 0 ? 4 : 0)),
    };
  });
}

const tiles = Array.from({ length: 12 }, (_, k) => {
  const west = QUANTISATION.offset[0] + SIDE * (k % 4);
  const south = QUANTISATION.offset[1] + SIDE * Math.floor(k / 4);
  return { west, south, east: west + SIDE, north: south + SIDE };
});

describe('a thinned surface held against its points, tile by tile', () => {
  const nodes = field(6000, 5);
  const quantisation = QUANTISATION as never;
  const { points, own } = surfacePoints({ nodes, quantisation, takes });
  // One in eleven stays.
  const kept = own.map(({ nodeId, indices }) => ({ nodeId, indices: indices.filter((i) => i % 11 === 0) }));
  const parts = [placesOf({ nodes, chosen: kept, quantisation })];
  const surface = layThinned({ parts, offset: QUANTISATION.offset, tiles });

  test('each facet is listed in the tiles it reaches into, and in no others', () => {
    const { x, y, corners, facets, starts } = surface;
    const bounds = (f: number, axis: Float64Array, shift: number): [number, number] => {
      const values = [0, 1, 2].map((k) => axis[corners[3 * f + k]!]! + shift);
      return [Math.min(...values), Math.max(...values)];
    };
    for (const [k, tile] of tiles.entries()) {
      const listed = new Set(facets.subarray(starts[k], starts[k + 1]));
      for (let f = 0; f < corners.length / 3; f++) {
        const [west, east] = bounds(f, x, QUANTISATION.offset[0]);
        const [south, north] = bounds(f, y, QUANTISATION.offset[1]);
        const reaches = east >= tile.west && west < tile.east && north >= tile.south && south < tile.north;
        expect(listed.has(f)).toBe(reaches);
      }
    }
  });

  test('the sums of the tiles are those of the whole', () => {
    const frame = { east: 5_000_000, north: 6_000_000, cell: 5, columns: 20, rows: 15 };
    const sums = newDifferenceSums();
    let furthest = NaN;
    for (const [tileAt, tile] of tiles.entries()) {
      const part = thinnedDifference({ nodes, quantisation, tile, takes, surface, tileAt, kept, frame });
      mergeDifferences(sums, part.sums);
      for (const d of part.map!.values) if (!Number.isNaN(d) && isFurther(d, furthest)) furthest = d;
    }
    let at = 0;
    const isKept = new Uint8Array(points.x.length);
    for (const { indices } of own) for (const i of indices) isKept[at++] = i % 11 === 0 ? 1 : 0;
    const [whole, tiled] = [surfaceDifference(points, isKept), summarise(sums)];
    expect([tiled.compared, tiled.outside]).toEqual([whole.compared, whole.outside]);
    for (const figure of ['mean', 'rmse', 'within95', 'worst'] as const)
      expect(tiled[figure]).toBeCloseTo(whole[figure], 4);
    // The worst of all is somewhere on the map.
    expect(Math.abs(furthest)).toBeCloseTo(whole.worst, 4);
  });
});
