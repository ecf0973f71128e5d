import type { RasterFrame } from '@pampero/core/raster';
import { unpackArrays } from '@pampero/core/binary';
import {
  contourFacts,
  departureOf,
  filledBands,
  packContours,
  partObscured,
  smoothSurface,
  thinFacets,
  traceGrid,
  traceWithFacets,
  type ContourFacts,
  type ContourOptions,
  type Departure,
} from '@pampero/core/contours';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import { PamperoError } from '@pampero/core/task';
import { gridToTin, unpackTin, type Tin } from '@pampero/core/terrain';
import type { MessagePort } from 'node:worker_threads';
import { throttled } from './throttled.js';

export interface ContourTask {
  readonly tin: Uint8Array;
  readonly options: ContourOptions;
  /** In elevation, job units; 0 for none. */
  readonly smoothing: number;
  /** Sides longer than this are thin support, job units; 0 parts nothing. */
  readonly dashFrom: number;
  readonly port: MessagePort;
}

/** Contours of a surface, evened out and parted where support is thin, as asked. */
export function contours({ tin, options, smoothing, dashFrom, port }: ContourTask): {
  lines: Uint8Array;
  facts: ContourFacts & { departure?: Departure };
} {
  const measured = unpackTin(tin);
  const surface = smoothSurface(measured, smoothing);
  const traced = traceWithFacets(surface, options, throttled(port));
  const isThin = dashFrom > 0 ? thinFacets(measured, dashFrom) : undefined;
  const set = isThin ? partObscured(traced, (facet) => isThin[facet] === 1, dashFrom) : traced.contours;
  return {
    lines: packContours(set),
    facts: {
      ...contourFacts(set),
      ...(smoothing > 0 && { departure: departureOf(traced, surface, measured.elevation) }),
    },
  };
}

/** The land between contours as GeoJSON polygons in full coordinates, each with its band, area and where it came from. */
export function bandsOfSurface({
  on,
  options,
  about,
  epsg,
}: {
  readonly on: { readonly tin: Uint8Array } | { readonly grid: Uint8Array };
  readonly options: { readonly interval: number; readonly base: number };
  readonly about: Readonly<Record<string, string>>;
  readonly epsg: number | undefined;
}): string {
  const surface = 'tin' in on ? unpackTin(on.tin) : tinOfGrid(on.grid);
  const [oe, north] = surface.origin;
  const rounded = (value: number): number => Number(value.toFixed(4));
  // Bands meet in corners closer than a tenth of a millimetre; rounded to it they would cross.
  const fine = (value: number): number => Number(value.toFixed(7));
  return JSON.stringify({
    type: 'FeatureCollection',
    ...geoJsonSystem(epsg),
    features: filledBands(surface, options).map(({ low, high, polygons, area }) => ({
      type: 'Feature',
      properties: { low: rounded(low), high: rounded(high), area: Number(area.toFixed(2)), ...about },
      geometry: {
        type: 'MultiPolygon',
        coordinates: polygons.map((rings) =>
          rings.map((ring) => [...ring, ring[0]!].map(([e, n]) => [fine(e + oe), fine(n + north)])),
        ),
      },
    })),
  });
}

/** Triangles of more cells would not fit into the memory of a thread. */
const MOST_BANDED_CELLS = 4_000_000;

function tinOfGrid(grid: Uint8Array): Tin {
  const { arrays, facts } = unpackArrays(grid);
  const frame = facts as unknown as RasterFrame;
  if (frame.columns * frame.rows > MOST_BANDED_CELLS)
    throw new PamperoError('grid-too-fine', {
      what: `Bands are cut out of ${MOST_BANDED_CELLS} cells at most; the grid has ${frame.columns * frame.rows}.`,
      fix: 'Make a grid of larger cells, or draw contours on a surface.',
    });
  return gridToTin(arrays['elevation'] as Float32Array, frame);
}

/** Contours of a grid as it is stored. */
export function gridContours({
  grid,
  options,
  port,
}: Pick<ContourTask, 'options' | 'port'> & { readonly grid: Uint8Array }): {
  lines: Uint8Array;
  facts: ContourFacts & { departure?: Departure };
} {
  const { arrays, facts } = unpackArrays(grid);
  const set = traceGrid(arrays['elevation'] as Float32Array, facts as unknown as RasterFrame, options, throttled(port));
  return { lines: packContours(set), facts: contourFacts(set) };
}
