import { columnFrom } from '../columns/index.js';
import { isSoftRole, legIndex } from '../lines/index.js';
import { planBounds, type RasterFrame } from '../raster/index.js';
import { Outline, type Place } from '../selection/index.js';
import type { TerrainLine } from '../terrain/index.js';

/**
 * One grid inside outlines and another outside, with a seam in which the one goes over into the other, so that there is no step.
 * @param seam - width of the seam, half of it on either side of the outline; job units, 0 for none
 * @returns a new grid; where one has no value the other's stands
 */
export function insideAndOutside(
  inside: Float32Array,
  outside: Float32Array,
  frame: RasterFrame,
  outlines: readonly TerrainLine[],
  seam: number,
): Float32Array<ArrayBuffer> {
  const share = sharesInside(frame, outlines, seam);
  return columnFrom(Float32Array, outside, (other, at) => {
    const own = inside[at]!;
    const weight = share[at]!;
    if (weight === 0 || Number.isNaN(own)) return other;
    if (weight === 1 || Number.isNaN(other)) return own;
    return weight * own + (1 - weight) * other;
  });
}

/** Of each cell 1 inside the outlines, 0 outside, between them in the seam by distance from the outline. */
function sharesInside(
  { east, north, cell, columns, rows }: RasterFrame,
  outlines: readonly TerrainLine[],
  seam: number,
): Float32Array {
  const share = new Float32Array(columns * rows);
  const areas = outlines.map(({ easting, northing }) => new Outline(easting.map((e, k): Place => [e, northing[k]!])));
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      const [e, n] = [east + (column + 0.5) * cell, north + (row + 0.5) * cell];
      if (areas.some((area) => area.contains(e, n))) share[at] = 1;
    }
  if (!(seam > 0)) return share;
  const half = seam / 2;
  const nearest = new Map<number, number>();
  for (const { easting, northing } of outlines)
    for (let k = 0; k < easting.length; k++) {
      const [ae, an] = [easting[k]!, northing[k]!];
      const [be, bn] = [easting[(k + 1) % easting.length]!, northing[(k + 1) % easting.length]!];
      const index = (value: number, origin: number, count: number): number =>
        Math.max(0, Math.min(count - 1, Math.floor((value - origin) / cell)));
      const [de, dn] = [be - ae, bn - an];
      const square = de * de + dn * dn || 1;
      for (let r = index(Math.min(an, bn) - half, north, rows); r <= index(Math.max(an, bn) + half, north, rows); r++)
        for (
          let c = index(Math.min(ae, be) - half, east, columns);
          c <= index(Math.max(ae, be) + half, east, columns);
          c++
        ) {
          const [e, n] = [east + (c + 0.5) * cell, north + (r + 0.5) * cell];
          const t = Math.max(0, Math.min(1, ((e - ae) * de + (n - an) * dn) / square));
          const distance = Math.hypot(e - ae - t * de, n - an - t * dn);
          const at = r * columns + c;
          if (distance < half && distance < (nearest.get(at) ?? Infinity)) nearest.set(at, distance);
        }
    }
  for (const [at, distance] of nearest) share[at] = share[at] === 1 ? 0.5 + distance / seam : 0.5 - distance / seam;
  return share;
}

/**
 * Water laid in and lines burnt into a grid: cells inside an outline of standing water get its level, those inside one of flowing water
 * the elevation of the outline beside them, and cells that a line of the ground runs through the line's elevation there. Islands stay. In place.
 * @returns how many cells were set
 */
export function layLines(
  values: Float32Array,
  { east, north, cell, columns, rows }: RasterFrame,
  lines: readonly TerrainLine[],
): number {
  let set = 0;
  const put = (column: number, row: number, z: number): void => {
    if (column < 0 || row < 0 || column >= columns || row >= rows || Number.isNaN(z)) return;
    values[row * columns + column] = z;
    set++;
  };
  const islands = lines.filter(({ isIsland }) => isIsland).map(outlineOf);
  for (const line of lines.filter(({ role, isIsland }) => !isIsland && (role === 'water' || role === 'river'))) {
    const { easting, northing } = line;
    const outline = outlineOf(line);
    const levelAt = line.role === 'water' ? flatLevel(line) : fallingLevel(line);
    const { west, south, east: last, north: top } = planBounds(easting, northing);
    const firstRow = Math.max(0, Math.floor((south - north) / cell));
    const lastRow = Math.min(rows - 1, Math.floor((top - north) / cell));
    const firstColumn = Math.max(0, Math.floor((west - east) / cell));
    const lastColumn = Math.min(columns - 1, Math.floor((last - east) / cell));
    for (let row = firstRow; row <= lastRow; row++)
      for (let column = firstColumn; column <= lastColumn; column++) {
        const [e, n] = [east + (column + 0.5) * cell, north + (row + 0.5) * cell];
        if (outline.contains(e, n) && !islands.some((island) => island.contains(e, n))) put(column, row, levelAt(e, n));
      }
  }
  for (const line of lines.filter(({ role }) => role === 'breakline' || isSoftRole(role))) {
    const corners = line.easting.length;
    for (let k = 0; k + (line.isClosed ? 0 : 1) < corners; k++) {
      const next = (k + 1) % corners;
      const [ae, an, az] = [line.easting[k]!, line.northing[k]!, line.elevation[k]!];
      const [de, dn, dz] = [line.easting[next]! - ae, line.northing[next]! - an, line.elevation[next]! - az];
      // Steps of a third of a cell go through every cell that the line is in for more than that.
      const steps = Math.max(1, Math.ceil((3 * Math.hypot(de, dn)) / cell));
      for (let s = 0; s <= steps; s++) {
        const t = s / steps;
        put(Math.floor((ae + t * de - east) / cell), Math.floor((an + t * dn - north) / cell), az + t * dz);
      }
    }
  }
  return set;
}

const outlineOf = ({ easting, northing }: TerrainLine): Outline =>
  new Outline(easting.map((e, k): Place => [e, northing[k]!]));

function flatLevel({ elevation }: TerrainLine): () => number {
  const level = elevation.find((z) => !Number.isNaN(z)) ?? NaN;
  return () => level;
}

/** Legs looked at for the nearest: their boxes are near, which does not say which of them is. */
const LEGS_LOOKED_AT = 8;

/** The elevation of the outline at its place nearest to another: flowing water is level across and falls along. */
function fallingLevel(line: TerrainLine): (e: number, n: number) => number {
  const shape = { ...line, isClosed: true };
  const index = legIndex(shape);
  if (!index) return () => NaN;
  return (e, n) => {
    let [level, least] = [NaN, Infinity];
    for (const leg of index.neighbors(e, n, LEGS_LOOKED_AT)) {
      const next = (leg + 1) % line.easting.length;
      const [ae, an, az] = [line.easting[leg]!, line.northing[leg]!, line.elevation[leg]!];
      const [de, dn, dz] = [line.easting[next]! - ae, line.northing[next]! - an, line.elevation[next]! - az];
      const t = Math.max(0, Math.min(1, ((e - ae) * de + (n - an) * dn) / Math.max(1e-12, de * de + dn * dn)));
      const distance = Math.hypot(e - ae - t * de, n - an - t * dn);
      if (distance < least) [level, least] = [az + t * dz, distance];
    }
    return level;
  };
}
