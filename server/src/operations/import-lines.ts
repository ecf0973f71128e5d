import type { importLines } from '@pampero/contract';
import { readCodedLines, readGeoJsonLines, type ReadLine } from '@pampero/core/formats/lines';
import type { LineRole, TerrainLine } from '@pampero/core/terrain';
import { PamperoError } from '@pampero/core/task';
import type { z } from 'zod';
import { readDxfLines } from '../incoming/dxf-lines.js';
import type { Models } from '../jobs/models.js';
import type { RunWork } from '../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../store/product-repository.js';
import { formatCount } from './format-figures.js';

type ImportLinesParameters = z.output<ReturnType<typeof importLines.parameters>>;

/** Reads a text of lines and keeps them as a product. */
export function importLinesWork(text: string, parameters: ImportLinesParameters): RunWork {
  const lines = parse(text, parameters).map((line): ReadLine => ({
    ...line,
    elevation: parameters.level === undefined ? line.elevation : line.elevation.map(() => parameters.level!),
    isClosed: line.isClosed || (parameters.role !== 'breakline' && parameters.role !== 'soft'),
  }));
  if (parameters.role === 'water')
    for (const line of lines) {
      const levels = line.elevation.filter((z) => !Number.isNaN(z));
      if (levels.length === 0)
        throw new PamperoError('no-level', {
          what: 'A water outline has no elevation, so its level is not known.',
          mend: 'Give a level, or an outline with elevations.',
        });
    }
  const name = parameters.name ?? parameters.fileName.replace(/\.[^.]+$/, '');
  return () => {
    const corners = lines.reduce((sum, { easting }) => sum + easting.length, 0);
    const heights = lines.flatMap(({ elevation }) => elevation).filter((z) => !Number.isNaN(z));
    const facts = {
      role: parameters.role,
      lines: lines.length,
      corners,
      withElevation: heights.length,
      length: lines.reduce((sum, line) => sum + lengthOf(line), 0),
      ...(heights.length > 0 && {
        lowest: heights.reduce((a, b) => Math.min(a, b)),
        highest: heights.reduce((a, b) => Math.max(a, b)),
      }),
    };
    return Promise.resolve({
      outcome: `${formatCount(lines.length)} ${lines.length === 1 ? 'line' : 'lines'} with ${formatCount(corners)} corners`,
      figures: [
        { label: 'Lines', value: lines.length, quantity: 'count' as const },
        { label: 'Corners', value: corners, quantity: 'count' as const },
        { label: 'Of them with elevation', value: heights.length, quantity: 'count' as const },
        { label: 'Length in plan', value: facts.length, quantity: 'length' as const },
      ],
      store: (models: Models) =>
        storeProduct(models, {
          kind: 'lines',
          name,
          inputId: 0,
          inputRevision: 0,
          operation: 'import-lines',
          parameters,
          facts,
          blobs: { lines: new TextEncoder().encode(asGeoJson(lines)) },
        }),
    });
  };
}

function parse(text: string, { format, fileName, order }: ImportLinesParameters): ReadLine[] {
  if (format === 'dxf') return readDxfLines(text, fileName);
  return format === 'list' ? readCodedLines(text, order, fileName) : readGeoJsonLines(text, fileName);
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
      const corners = easting.map((e, k) => {
        const z = elevation[k]!;
        return Number.isNaN(z) ? [e, northing[k]!] : [e, northing[k]!, z];
      });
      return {
        type: 'Feature',
        properties: { layer },
        geometry: { type: 'LineString', coordinates: isClosed ? [...corners, corners[0]] : corners },
      };
    }),
  });
}

/** The lines of some products, for a surface. */
export async function readTerrainLines(models: Models, ids: readonly number[]): Promise<TerrainLine[]> {
  const out: TerrainLine[] = [];
  for (const id of ids) {
    const { facts, name } = await readProduct(models, id, 'lines');
    const text = (await readProductBlob(models, id, 'lines')).toString('utf8');
    for (const line of readGeoJsonLines(text, name)) {
      const role = facts['role'] as LineRole;
      const levels = line.elevation.filter((z) => !Number.isNaN(z));
      // Water is level: at the mean where its corners differ a little.
      const level = levels.reduce((sum, z) => sum + z, 0) / Math.max(1, levels.length);
      out.push({ ...line, role, elevation: role === 'water' ? line.elevation.map(() => level) : line.elevation });
    }
  }
  return out;
}
