import { FormatError } from '@pampero/core/formats';
import type { ReadLine } from '@pampero/core/formats/lines';
import { readDxfEntities } from './dxf-entities.js';

/** Lines and polylines of a DXF text; flat ones at elevation 0 are taken to have none. Arcs and splines are passed over. */
export function readDxfLines(text: string, fileName: string): ReadLine[] {
  const lines = readDxfEntities(text, fileName)
    .filter(({ type }) => type === 'LINE' || type === 'POLYLINE' || type === 'LWPOLYLINE')
    .flatMap(({ type, layer = '', vertices = [], shape, elevation }): ReadLine[] => {
      if (vertices.length < 2) return [];
      const level = elevation ?? 0;
      const heights = vertices.map(({ z }) => (type === 'LWPOLYLINE' ? level : (z ?? 0)));
      const isFlat = heights.every((z) => z === 0);
      return [
        {
          easting: vertices.map(({ x }) => x),
          northing: vertices.map(({ y }) => y),
          elevation: isFlat ? heights.map(() => NaN) : heights,
          isClosed: shape === true,
          layer,
        },
      ];
    });
  if (lines.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} holds no lines or polylines.`,
      fix: 'Explode blocks and arcs into polylines, and save again.',
    });
  return lines;
}
