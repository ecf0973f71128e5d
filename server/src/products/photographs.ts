import { omegaPhiKappa, undistort } from '@pampero/core/photographs';
import { toDegrees } from '@pampero/core/strips';
import { cameraOf, readPhotographs } from '../passes/photograph-site.js';
import { readProduct } from '../store/product-repository.js';
import { csvTable } from './csv-table.js';
import type { ProductHome } from './product-home.js';

/** How far a photograph is drawn along its axis, of how far they lie apart. */
const REACH = 0.25;

export const home: ProductHome<'photographs'> = {
  kind: 'photographs',
  /** Each as the pyramid that it looks into: from the camera to its corners. */
  async shown(models, id) {
    const { facts } = await readProduct(models, id, 'photographs');
    const photographs = await readPhotographs(models, id);
    const apart = Math.sqrt(extent(photographs) / Math.max(1, photographs.length));
    const features = photographs.map((photograph) => {
      const camera = cameraOf(facts, photograph);
      const corners = (
        [
          [0, 0],
          [camera.columns, 0],
          [camera.columns, camera.rows],
          [0, camera.rows],
        ] as const
      ).map(([column, row]) => {
        const [x, y] = undistort(camera, (column - camera.principalColumn) / camera.focal, (row - camera.principalRow) / camera.focal); // prettier-ignore
        const reach = apart * REACH;
        return [0, 1, 2].map(
          (axis) =>
            [photograph.east, photograph.north, photograph.up][axis]! +
            reach * (photograph.axes[axis]! * x + photograph.axes[3 + axis]! * y + photograph.axes[6 + axis]!),
        );
      });
      const from = [photograph.east, photograph.north, photograph.up];
      const [a, b, c, d] = corners as [number[], number[], number[], number[]];
      return { geometry: { coordinates: [a, b, c, d, a, from, b, from, c, from, d] } };
    });
    return { json: JSON.stringify({ features }) };
  },
  writers: {
    csv: async ({ models }, { id }) => {
      const rows = (await readPhotographs(models, id)).map(({ fileName, east, north, up, axes }) => [
        fileName,
        ...[east, north, up].map((value) => value.toFixed(4)),
        ...omegaPhiKappa(axes).map((angle) => toDegrees(angle).toFixed(6)),
      ]);
      return { bytes: csvTable([['file', 'east', 'north', 'height', 'omega', 'phi', 'kappa'], ...rows]) };
    },
  },
};

/** The square that the places lie in. */
function extent(places: readonly { readonly east: number; readonly north: number; readonly up: number }[]): number {
  const span = (of: (place: (typeof places)[number]) => number): number =>
    Math.max(...places.map(of)) - Math.min(...places.map(of));
  return (
    Math.max(
      span(({ east }) => east),
      span(({ north }) => north),
      10,
    ) ** 2
  );
}
