import { connectedCells } from '@pampero/core/raster';
import { Likeness, maskFrom, measureFar, pickedColours, stableTolerance } from '@pampero/core/masks';
import { seededRandom } from '@pampero/core/task';
import { describe, expect, test } from 'vitest';
import { farm } from './farm/farm.js';
import { groundElevation, waterElevation } from './farm/terrain.js';
import { renderOrthophoto } from './simulation/orthophoto.js';

/** Water by its colour against the farm's own water, on its orthophoto as the demo has it: crowns lean over the water and throw shadows; with the noise of a camera. Made-up land: what is real is that truth is known. */
const PIXEL = 0.2;
const SEED = 41;

describe('water by one place picked on it', () => {
  const { rgb, frame } = renderOrthophoto(farm(SEED), { pixel: PIXEL, shift: [0, 0], leans: true });
  const random = seededRandom(9);
  for (let k = 0; k < rgb.length; k++)
    rgb[k] = Math.max(0, Math.min(255, rgb[k]! + Math.round(8 * (random() + random() - 1))));
  const size = { columns: frame.columns, rows: frame.rows };
  const truth = Uint8Array.from({ length: size.columns * size.rows }, (_, at) => {
    const [e, n] = [((at % size.columns) + 0.5) * PIXEL, (Math.floor(at / size.columns) + 0.5) * PIXEL];
    return waterElevation(e, n) > groundElevation(e, n) ? 1 : 0;
  });
  const pieces = connectedCells(size, (at) => truth[at] === 1).sort((a, b) => b.length - a.length);

  /** A place well inside: the pixel of a piece furthest from its ends in storing order. */
  const placeIn = (piece: readonly number[]): [number, number] => {
    const es = piece.map((at) => at % size.columns);
    const [e, n] = [es.reduce((a, b) => a + b, 0) / es.length, 0];
    const column = Math.round(e);
    const rows = piece.filter((at) => at % size.columns === column).map((at) => Math.floor(at / size.columns));
    return [column + 0.5, n + rows[rows.length >> 1]! + 0.5];
  };

  function maskAt([column, row]: readonly [number, number]): { mask: Uint8Array; tolerance: number } {
    const about: [number, number, number][] = [];
    for (let r = Math.floor(row) - 4; r <= row + 4; r++)
      for (let c = Math.floor(column) - 4; c <= column + 4; c++) {
        const k = 3 * (r * size.columns + c);
        about.push([rgb[k]!, rgb[k + 1]!, rgb[k + 2]!]);
      }
    const picked = pickedColours([about]);
    const far = new Uint8Array(size.columns * size.rows).fill(255);
    const tile = { data: rgb, width: size.columns, height: size.rows, samples: 3 };
    measureFar(tile, undefined, [0, 0], new Likeness(picked.colours), { column: 0, row: 0, ...size }, far);
    const tolerance = stableTolerance(far, size, [[column, row]], picked.tolerance);
    const hole = (3 / PIXEL) ** 2;
    const shaping = {
      soften: 2,
      smallestHole: hole,
      smallestPiece: hole,
      grow: 0,
      heldBy: [[column, row]] as const,
      painted: [],
    };
    return { mask: maskFrom(far, tolerance, size, shaping), tolerance };
  }

  test.each([
    ['the canal', 0],
    ['the lagoon', 1],
  ])('%s: intersection over union with the truth is at least 0.95', (name, which) => {
    const piece = new Set(pieces[which]);
    const { mask, tolerance } = maskAt(placeIn(pieces[which]!));
    let [both, either] = [0, 0];
    for (let at = 0; at < mask.length; at++) {
      const [a, b] = [mask[at] === 1, piece.has(at)];
      if (a && b) both++;
      if (a || b) either++;
    }
    console.log(`${name}: ${(both / either).toFixed(4)} at ${tolerance.toFixed(1)}`);
    expect(both / either).toBeGreaterThan(0.95);
  });
});
