import { execFileSync, spawnSync } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { traceContours, traceGrid } from '@pampero/core/contours';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { hillshade } from '@pampero/core/grids';
import { seededRandom } from '@pampero/core/task';
import { sampleTin, triangulate, type TerrainLine } from '@pampero/core/terrain';
import { volumeBetween } from '@pampero/core/volumes';
import Delaunator from 'delaunator';
import type { Row } from './rows.js';

const height = (e: number, n: number): number =>
  100 + 12 * Math.sin(e / 140) * Math.cos(n / 170) + 1.5 * Math.sin(e / 17 + n / 23);
const timed = <T>(work: () => T): [T, number] => {
  const begun = performance.now();
  const result = work();
  return [result, (performance.now() - begun) / 1000];
};

/** Surfaces, grids, contours and volumes against general-purpose programs, on the same data in the same run. */
export async function* terrainBench(folder: string, count: number): AsyncGenerator<Row> {
  const millions = `${count / 1e6} M`;
  const random = seededRandom(6);
  const side = Math.sqrt(count);
  const e = Float64Array.from({ length: count }, () => Math.round(random() * side * 1000) / 1000);
  const n = Float64Array.from({ length: count }, () => Math.round(random() * side * 1000) / 1000);
  const z = Float64Array.from(e, (x, i) => height(x, n[i]!));
  // Fifty thousand edges at two million points: wavy lines across the land.
  const perLine = 500;
  const lines = Array.from({ length: Math.round(count / 20_000) }, (_, k): TerrainLine => {
    const north = ((k + 0.5) * side * 20_000) / count;
    const easting = Array.from({ length: perLine + 1 }, (_, i) => 2 + ((side - 4) * i) / perLine);
    const northing = easting.map((x) => north + 3 * Math.sin(x / 40));
    return {
      role: 'breakline',
      isClosed: false,
      easting,
      northing,
      elevation: easting.map((x, i) => height(x, northing[i]!)),
    };
  });
  const coords = new Float64Array(2 * count);
  for (let i = 0; i < count; i++) {
    coords[2 * i] = e[i]!;
    coords[2 * i + 1] = n[i]!;
  }
  const [, alone] = timed(() => new Delaunator(coords));
  yield { name: `delaunator alone, ${millions} points`, measured: alone, unit: 's' };
  const [{ tin, report }, constrained] = timed(() => triangulate(e, n, z, { maximumEdge: 0 }, lines));
  yield { name: `TIN with ${report.edgesHeld} edges held, ${millions} points`, measured: constrained, unit: 's' };
  yield { name: 'TIN with edges against delaunator alone', measured: constrained / alone, unit: 'times', target: 2 };
  yield { name: 'edges that could not be held', measured: report.edgesNotHeld, unit: '', target: 0 };

  const raw = join(folder, 'points.bin');
  await writeFile(raw, Buffer.from(coords.buffer));
  const script = `import numpy as np, time\nfrom scipy.spatial import Delaunay\np=np.fromfile(${JSON.stringify(raw)}).reshape(-1,2)\nt=time.time()\nDelaunay(p)\nprint(time.time()-t)`;
  const scipy = spawnSync('/usr/bin/python3', ['-c', script], { encoding: 'utf8' });
  if (scipy.status === 0)
    yield {
      name: 'TIN with edges against SciPy’s Delaunay without',
      measured: Number(scipy.stdout) / constrained,
      unit: 'times as fast',
      target: 3,
      isMoreBetter: true,
    };

  const cells = 2000;
  const frame = { east: 0, north: 0, cell: side / cells, columns: cells, rows: cells };
  const [grid, sampling] = timed(() => sampleTin(tin, frame));
  yield { name: 'linear grid of 4 M cells from the TIN', measured: sampling, unit: 's' };
  yield* gridAgainstGdal(folder, e, n, z, frame, sampling);

  const [contours, tracing] = timed(() =>
    traceContours(tin, { interval: 0.25, base: 0, indexEvery: 4, minimumLength: 0 }),
  );
  yield {
    name: `contours at 0.25 m from ${(tin.facets.length / 3e6).toFixed(1)} M triangles (${contours.level.length} lines)`,
    measured: tracing,
    unit: 's',
    target: 3 * (tin.facets.length / 3 / 2e6),
  };
  const tif = join(folder, 'grid.tif');
  await writeFile(tif, writeGeoTiff(grid, frame, { deflate: (bytes) => deflateSync(bytes, { level: 1 }) }));
  const [, shading] = timed(() => hillshade(grid, cells, cells, frame.cell, { azimuth: 315, altitude: 45 }));
  const [, theirs] = timed(() =>
    execFileSync('/usr/bin/gdaldem', ['hillshade', '-q', tif, join(folder, 'shade.tif')], { stdio: 'ignore' }),
  );
  yield { name: 'hillshade of 4 M cells', measured: shading, unit: 's', target: theirs };
  const [, lined] = timed(() =>
    execFileSync('/usr/bin/gdal_contour', ['-q', '-i', '0.25', tif, join(folder, 'lines.shp')], { stdio: 'ignore' }),
  );
  yield { name: 'gdal_contour at 0.25 m on the 4 M cells', measured: lined, unit: 's' };
  const [ofGrid, gridTracing] = timed(() =>
    traceGrid(grid, frame, { interval: 0.25, base: 0, indexEvery: 4, minimumLength: 0 }),
  );
  yield {
    name: `contours at 0.25 m on the 4 M cells (${ofGrid.level.length} lines)`,
    measured: gridTracing,
    unit: 's',
    target: lined,
  };
  const [volume, measuring] = timed(() => volumeBetween(tin, 100));
  yield {
    name: `volume over a level, ${(tin.facets.length / 3e6).toFixed(1)} M triangles`,
    measured: measuring,
    unit: 's',
  };
  yield { name: 'its net', measured: volume.fill - volume.cut, unit: 'm³' };
}

async function* gridAgainstGdal(
  folder: string,
  e: Float64Array,
  n: Float64Array,
  z: Float64Array,
  { columns, rows, cell }: { columns: number; rows: number; cell: number },
  ours: number,
): AsyncGenerator<Row> {
  // gdal_grid on a twentieth of the points and a hundredth of the cells: the whole would take hours. Its time a cell is held against ours.
  const few = Math.round(e.length / 20);
  const csv = join(folder, 'points.csv');
  let text = 'x,y,z\n';
  for (let i = 0; i < few; i++) text += `${e[i]},${n[i]},${z[i]}\n`;
  await writeFile(csv, text);
  const vrt = join(folder, 'points.vrt');
  await writeFile(
    vrt,
    `<OGRVRTDataSource><OGRVRTLayer name="points"><SrcDataSource>${csv}</SrcDataSource><GeometryType>wkbPoint</GeometryType><GeometryField encoding="PointFromColumns" x="x" y="y" z="z"/></OGRVRTLayer></OGRVRTDataSource>`,
  );
  const size = Math.round(columns / 10);
  const begun = performance.now();
  const run = spawnSync(
    '/usr/bin/gdal_grid',
    ['-q', '-a', 'linear:radius=0', '-txe', '0', String(columns * cell), '-tye', '0', String(rows * cell), '-outsize', String(size), String(size), '-l', 'points', vrt, join(folder, 'linear.tif')], // prettier-ignore
    { encoding: 'utf8', timeout: 300_000 },
  );
  const theirs = (performance.now() - begun) / 1000;
  if (run.status !== 0 || (await readFile(join(folder, 'linear.tif'))).length === 0) return;
  yield { name: `gdal_grid linear, ${few} points, ${size * size} cells`, measured: theirs, unit: 's' };
  yield {
    name: 'linear grid against gdal_grid’s, time a cell',
    measured: theirs / (size * size) / (ours / (columns * rows)),
    unit: 'times as fast',
    target: 5,
    isMoreBetter: true,
  };
}
