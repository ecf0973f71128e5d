import { importLines, type ImportLinesParameters } from '@pampero/contract';
import type { ReadLine } from '@pampero/core/formats/lines';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import type { Models } from '../../store/models.js';
import { storeProduct } from '../../store/product-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Reads a text of lines and keeps them as a product; a text that is none is refused before the run begins. */
async function begin(parameters: ImportLinesParameters, { pool, source }: FileSurroundings): Promise<RunWork> {
  const { path, fileName } = source;
  const { format, order } = parameters;
  const read = await pool.read('linesOfFile', { path, fileName, format, order }, source);
  const lines = read.map((line): ReadLine => ({
    ...line,
    elevation: parameters.level === undefined ? line.elevation : line.elevation.map(() => parameters.level!),
    isClosed: line.isClosed || (parameters.role !== 'breakline' && parameters.role !== 'soft'),
  }));
  if (parameters.role === 'water')
    for (const line of lines) {
      const levels = line.elevation.filter((z) => !Number.isNaN(z));
      if (levels.length === 0)
        throw new PamperoError('no-level', {
          what: 'A water outline has no elevation, so its level is unknown.',
          fix: 'Give a level, or an outline with elevations.',
        });
    }
  const name = parameters.name ?? fileName.replace(/\.[^.]+$/, '');
  return () => {
    const vertices = lines.reduce((sum, { easting }) => sum + easting.length, 0);
    const heights = lines.flatMap(({ elevation }) => elevation).filter((z) => !Number.isNaN(z));
    const facts = {
      role: parameters.role,
      lines: lines.length,
      vertices,
      withElevation: heights.length,
      length: lines.reduce((sum, line) => sum + lengthOf(line), 0),
      ...(heights.length > 0 && {
        lowest: heights.reduce((a, b) => Math.min(a, b)),
        highest: heights.reduce((a, b) => Math.max(a, b)),
      }),
    };
    return Promise.resolve({
      outcome: `${formatCounted(lines.length, 'line')} with ${formatCount(vertices)} vertices`,
      figures: [
        { label: 'Lines', value: lines.length, quantity: 'count' as const },
        { label: 'Vertices', value: vertices, quantity: 'count' as const },
        { label: 'Of them with elevation', value: heights.length, quantity: 'count' as const },
        { label: 'Length in plan', value: facts.length, quantity: 'length' as const },
      ],
      store: (models: Models) =>
        storeProduct(models, {
          kind: 'lines',
          name,
          operation: importLines.id,
          parameters,
          facts,
          blobs: { lines: new TextEncoder().encode(asGeoJson(lines)) },
        }),
    });
  };
}

function lengthOf({ easting, northing, isClosed }: ReadLine): number {
  let length = 0;
  for (let k = isClosed ? 0 : 1; k < easting.length; k++) {
    const before = k === 0 ? easting.length - 1 : k - 1;
    length += Math.hypot(easting[k]! - easting[before]!, northing[k]! - northing[before]!);
  }
  return length;
}

/** Lines as they are kept: GeoJSON, in the coordinates of the job. */
function asGeoJson(lines: readonly ReadLine[]): string {
  return JSON.stringify({
    type: 'FeatureCollection',
    features: lines.map(({ easting, northing, elevation, isClosed, layer }) => {
      const vertices = easting.map((e, k) => {
        const z = elevation[k]!;
        return Number.isNaN(z) ? [e, northing[k]!] : [e, northing[k]!, z];
      });
      return {
        type: 'Feature',
        properties: { layer },
        geometry: { type: 'LineString', coordinates: isClosed ? [...vertices, vertices[0]] : vertices },
      };
    }),
  });
}

export const operation = fileOperation(importLines, begin);
