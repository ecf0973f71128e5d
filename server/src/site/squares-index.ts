import { geoJsonSystem } from '@pampero/core/formats/lines';
import { squareAt, type SquareLayout } from '@pampero/core/squares';
import type { Seam } from './seams.js';
import type { SiteSquare } from './site-file.js';
import type { SquareWork } from './square-board.js';

/** How a square is called in the index that leaves. */
const STATE = { classing: 'in work', classed: 'in work', finishing: 'in work', done: 'done', stopped: 'stopped' } as const; // prettier-ignore

/**
 * The squares of a site as GeoJSON polygons in its system, for a map: how far each is, its points, and how well its surfaces meet those
 * about it.
 */
export function squaresIndex(
  { epsg, ...layout }: SquareLayout & { readonly epsg?: number | undefined },
  squares: readonly SiteSquare[],
  works: ReadonlyMap<string, SquareWork>,
  seams: readonly Seam[],
): string {
  const features = squares.map(({ name, column, row, own }) => {
    const { west, south, east, north } = squareAt(layout, column, row).land;
    const work = works.get(name);
    const edges = seams.filter(({ square, neighbour }) => square === name || neighbour === name);
    return {
      type: 'Feature',
      properties: {
        square: name,
        points: own,
        state: work ? STATE[work.phase] : 'not begun',
        ...(work?.because && { because: work.because }),
        ...(edges.length > 0 && {
          edges: edges.length,
          worst_difference: Number(Math.max(...edges.map(({ worst }) => worst)).toFixed(4)),
        }),
      },
      geometry: {
        type: 'Polygon',
        // Anticlockwise, as RFC 7946 has outer rings.
        coordinates: [
          [
            [west, south],
            [east, south],
            [east, north],
            [west, north],
            [west, south],
          ],
        ],
      },
    };
  });
  return JSON.stringify({ type: 'FeatureCollection', ...geoJsonSystem(epsg), features });
}
