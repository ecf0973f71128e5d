import { POINT_ORDERS } from '@pampero/core/formats/point-list';
import { LINE_ROLES, LINE_ROLE_NAMES } from '@pampero/core/terrain';
import { z } from 'zod';
import { choice, elevation, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** Formats that lines are read from. */
export const LINE_FORMATS = ['geojson', 'dxf', 'list'] as const;

export const importLines = {
  id: 'import-lines',
  stage: 'lines',
  title: 'Import lines',
  does: 'Reads breaklines, boundaries or water outlines from GeoJSON, DXF or a coded list of points.',
  takesFile: true,
  parameters: () =>
    z.strictObject({
      format: choice(LINE_FORMATS, {
        default: 'geojson',
        label: 'Format',
        help: 'How the lines are written.',
        choices: { geojson: 'GeoJSON', dxf: 'DXF', list: 'coded list' },
      }),
      order: choice(POINT_ORDERS, {
        default: 'PNEZD',
        label: 'Order',
        help: 'Of a list: P number, N northing, E easting, Z elevation, D code.',
        appliesTo: { name: 'format', is: 'list' },
      }),
      role: choice(LINE_ROLES, {
        default: 'breakline',
        label: 'Use as',
        help: 'A surface has edges along breaklines, ends at a boundary, is open in holes and flat in water.',
        choices: LINE_ROLE_NAMES,
      }),
      level: elevation({ label: 'Level', help: 'Elevation of all vertices, in place of their own.' }),
      name: productName('What the lines are called in the layers.'),
    }),
} as const satisfies OperationDescription;
export type ImportLinesParameters = z.output<ReturnType<typeof importLines.parameters>>;
