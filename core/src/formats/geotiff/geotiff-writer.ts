import type { RasterFrame } from '../../raster/index.js';

export interface GeoTiffOptions {
  /** EPSG code of the projected system, if known. */
  readonly epsg?: number;
  /** EPSG code of the elevations' unit: 9001 metre, 9002 foot, 9003 US survey foot. */
  readonly verticalUnit?: number;
  readonly description?: string;
  /** Deflates bytes (RFC 1950). */
  readonly deflate: (bytes: Uint8Array) => Uint8Array;
}

const TILE = 256;
const [SHORT, LONG, DOUBLE, ASCII] = [3, 4, 12, 2] as const;
const NO_DATA = -9999;

/**
 * A grid as GeoTIFF: tiles of 256 cells, deflated, no-data -9999, georeferenced (TIFF 6.0; OGC GeoTIFF 1.1, 19-008r4; the no-data
 * tag 42113 is GDAL's and read everywhere). Single floats; bytes for shading; three bytes a cell for coloured tints.
 * @param values - rows times columns times samples, row 0 the southernmost; NaN where there is no value
 */
export function writeGeoTiff(
  values: Float32Array | Uint8Array,
  { east, north, cell, columns, rows }: RasterFrame,
  { epsg, verticalUnit, description, deflate }: GeoTiffOptions,
): Uint8Array {
  const isFloat = values instanceof Float32Array;
  const samples = values.length / (columns * rows);
  const bytes = isFloat ? 4 : 1;
  const [across, down] = [Math.ceil(columns / TILE), Math.ceil(rows / TILE)];
  const tiles: Uint8Array[] = [];
  for (let ty = 0; ty < down; ty++)
    for (let tx = 0; tx < across; tx++) {
      const raw = new Uint8Array(TILE * TILE * samples * bytes);
      const view = new DataView(raw.buffer);
      for (let y = 0; y < TILE; y++)
        for (let x = 0; x < TILE; x++)
          for (let s = 0; s < samples; s++) {
            const [column, line] = [tx * TILE + x, ty * TILE + y];
            // The file's first line is the northernmost.
            const isIn = column < columns && line < rows;
            const value = isIn ? values[((rows - 1 - line) * columns + column) * samples + s]! : isFloat ? NaN : 0;
            const at = (y * TILE + x) * samples + s;
            if (isFloat) view.setFloat32(4 * at, Number.isNaN(value) ? NO_DATA : value, true);
            else raw[at] = value;
          }
      tiles.push(deflate(raw));
    }
  const geoKeys = geoKeyDirectory(epsg, verticalUnit);
  const entries: { tag: number; type: number; values: readonly number[] | string }[] = [
    { tag: 256, type: LONG, values: [columns] },
    { tag: 257, type: LONG, values: [rows] },
    { tag: 258, type: SHORT, values: Array.from({ length: samples }, () => 8 * bytes) },
    { tag: 259, type: SHORT, values: [8] },
    { tag: 262, type: SHORT, values: [samples === 3 ? 2 : 1] },
    ...(description ? [{ tag: 270, type: ASCII, values: ascii(description) }] : []),
    { tag: 277, type: SHORT, values: [samples] },
    { tag: 284, type: SHORT, values: [1] },
    { tag: 322, type: LONG, values: [TILE] },
    { tag: 323, type: LONG, values: [TILE] },
    { tag: 324, type: LONG, values: tiles.map(() => 0) },
    { tag: 325, type: LONG, values: tiles.map((tile) => tile.length) },
    { tag: 339, type: SHORT, values: Array.from({ length: samples }, () => (isFloat ? 3 : 1)) },
    { tag: 33_550, type: DOUBLE, values: [cell, cell, 0] },
    { tag: 33_922, type: DOUBLE, values: [0, 0, 0, east, north + rows * cell, 0] },
    { tag: 34_735, type: SHORT, values: geoKeys },
    ...(isFloat ? [{ tag: 42_113, type: ASCII, values: `${NO_DATA}` }] : []),
  ];
  const sizes: Readonly<Record<number, number>> = { [SHORT]: 2, [LONG]: 4, [DOUBLE]: 8, [ASCII]: 1 };
  const lengthOf = (entry: (typeof entries)[number]): number =>
    (entry.values.length + (entry.type === ASCII ? 1 : 0)) * sizes[entry.type]!;
  const headLength = 8 + 2 + 12 * entries.length + 4;
  let extra = headLength;
  const places = entries.map((entry) => {
    if (lengthOf(entry) <= 4) return 0;
    const at = extra;
    extra += lengthOf(entry) + (lengthOf(entry) % 2);
    return at;
  });
  let data = extra;
  const offsets = tiles.map((tile) => {
    const at = data;
    data += tile.length + (tile.length % 2);
    return at;
  });
  const file = new Uint8Array(data);
  const view = new DataView(file.buffer);
  file.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, 8, true);
  view.setUint16(8, entries.length, true);
  entries.forEach((entry, k) => {
    const at = 10 + 12 * k;
    const list = entry.tag === 324 ? offsets : entry.values;
    view.setUint16(at, entry.tag, true);
    view.setUint16(at + 2, entry.type, true);
    view.setUint32(at + 4, list.length + (entry.type === ASCII ? 1 : 0), true);
    const to = places[k] === 0 ? at + 8 : places[k]!;
    if (places[k] !== 0) view.setUint32(at + 8, to, true);
    for (let i = 0; i < list.length; i++) {
      const where = to + i * sizes[entry.type]!;
      if (typeof list === 'string') file[where] = list.charCodeAt(i);
      else if (entry.type === SHORT) view.setUint16(where, list[i]!, true);
      else if (entry.type === LONG) view.setUint32(where, list[i]!, true);
      else view.setFloat64(where, list[i]!, true);
    }
  });
  tiles.forEach((tile, k) => file.set(tile, offsets[k]!));
  return file;
}

function geoKeyDirectory(epsg: number | undefined, verticalUnit: number | undefined): number[] {
  const keys: [number, number][] = [
    [1024, 1], // projected
    [1025, 1], // a cell is an area
    [3072, epsg ?? 32_767],
    ...(verticalUnit === undefined ? [] : ([[4099, verticalUnit]] as [number, number][])),
  ];
  return [1, 1, 0, keys.length, ...keys.flatMap(([id, value]) => [id, 0, 1, value])];
}

function ascii(text: string): string {
  return text.replace(/[^\x20-\x7e]/g, '?');
}
