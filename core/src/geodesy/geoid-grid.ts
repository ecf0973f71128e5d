import { PamperoError } from '../task/index.js';

/** Heights of the geoid above the ellipsoid, metres, on a regular grid of degrees. */
export interface GeoidGrid {
  /** Degrees of the south-west corner. */
  readonly south: number;
  readonly west: number;
  readonly latitudeStep: number;
  readonly longitudeStep: number;
  readonly rows: number;
  readonly columns: number;
  /** Row after row from south to north, each from west to east. */
  readonly values: Float32Array;
}

const HEADER_BYTES = 40;
/** Written where the grid knows nothing. */
const NO_VALUE = -88.8888;

/**
 * Reads a geoid grid in the open GTX format of NOAA's VDatum: 40 bytes of header, then 32-bit floats, all big-endian.
 * @throws PamperoError `geoid-wrong` naming what does not fit
 */
export function readGtx(bytes: Uint8Array, name: string): GeoidGrid {
  const wrong = (what: string): PamperoError =>
    new PamperoError('geoid-wrong', { what, where: name, fix: 'Choose a geoid grid in GTX format.' });
  if (bytes.length < HEADER_BYTES)
    throw wrong(`The file has ${bytes.length} bytes; the header alone has ${HEADER_BYTES}.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [south, west, latitudeStep, longitudeStep] = [0, 8, 16, 24].map((at) => view.getFloat64(at)) as [
    number,
    number,
    number,
    number,
  ];
  const [rows, columns] = [view.getInt32(32), view.getInt32(36)];
  if (!(
    Math.abs(south) <= 90 &&
    Math.abs(west) <= 360 &&
    latitudeStep > 0 &&
    longitudeStep > 0 &&
    rows > 1 &&
    columns > 1
  ))
    throw wrong(
      `The header gives a corner at ${south}, ${west} and ${rows} x ${columns} cells of ${latitudeStep} x ${longitudeStep} degrees, which cannot be.`,
    );
  if (bytes.length < HEADER_BYTES + rows * columns * 4)
    throw wrong(
      `The header promises ${rows * columns} values; the file holds ${Math.floor((bytes.length - HEADER_BYTES) / 4)}.`,
    );
  const values = new Float32Array(rows * columns);
  for (let i = 0; i < values.length; i++) values[i] = view.getFloat32(HEADER_BYTES + i * 4);
  return { south, west, latitudeStep, longitudeStep, rows, columns, values };
}

/** The bytes of a GTX file. */
export function writeGtx(grid: GeoidGrid): Uint8Array {
  const bytes = new Uint8Array(HEADER_BYTES + grid.values.length * 4);
  const view = new DataView(bytes.buffer);
  [grid.south, grid.west, grid.latitudeStep, grid.longitudeStep].forEach((value, i) => view.setFloat64(i * 8, value));
  view.setInt32(32, grid.rows);
  view.setInt32(36, grid.columns);
  grid.values.forEach((value, i) => view.setFloat32(HEADER_BYTES + i * 4, value));
  return bytes;
}

/** Height of the geoid at a place, metres, bilinear between the grid's values; undefined outside or where it has none. */
export function geoidHeight(grid: GeoidGrid, latitude: number, longitude: number): number | undefined {
  const { south, west, latitudeStep, longitudeStep, rows, columns, values } = grid;
  const row = (latitude - south) / latitudeStep;
  // Grids count degrees from 0 to 360 or from -180 to 180.
  const column = ((((longitude - west) % 360) + 360) % 360) / longitudeStep;
  // A hair's breadth over the rim is rounding, not outside.
  const hair = 1e-9;
  if (row < -hair || row > rows - 1 + hair || column > columns - 1 + hair) return undefined;
  const [r, c] = [Math.min(rows - 2, Math.max(0, Math.floor(row))), Math.min(columns - 2, Math.floor(column))];
  const [u, v] = [column - c, row - r];
  const at = r * columns + c;
  const corners = [values[at]!, values[at + 1]!, values[at + columns]!, values[at + columns + 1]!] as const;
  if (corners.some((value) => Math.abs(value - NO_VALUE) < 1e-3 || !Number.isFinite(value))) return undefined;
  const [a, b, d, e] = corners;
  return (a * (1 - u) + b * u) * (1 - v) + (d * (1 - u) + e * u) * v;
}
