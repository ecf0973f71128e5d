import { FormatError } from '../format-error.js';
import type { ReadLine } from '../lines/index.js';
import { readDxfEntities } from './dxf-entities.js';

/**
 * Lines and polylines of a DXF text; flat ones at elevation 0 are taken to have none. Arcs and splines come as legs within the tolerance.
 * @throws FormatError
 */
export function readDxfLines(text: string, fileName: string, tolerance?: number): ReadLine[] {
  const lines: ReadLine[] = [];
  for (const { type, layer, vertices, isClosed } of readDxfEntities(text, fileName, tolerance)) {
    if (type === '3DFACE' || vertices.length < 2) continue;
    const isFlat = vertices.every(({ z }) => z === 0);
    lines.push({
      easting: vertices.map(({ x }) => x),
      northing: vertices.map(({ y }) => y),
      elevation: vertices.map(({ z }) => (isFlat ? NaN : z)),
      isClosed,
      layer,
    });
  }
  if (lines.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} holds no lines or polylines.`,
      fix: 'Explode blocks into polylines, and save again.',
    });
  return lines;
}
