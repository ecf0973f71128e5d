import { POINT_ORDERS } from '@pampero/core/formats/point-list';
import type { LengthUnit } from '@pampero/core/geodesy';
import { LINE_ROLES, LINE_ROLE_NAMES } from '@pampero/core/lines';
import { z } from 'zod';
import { codeNameSchema } from '../../feature-codes.js';
import { choice, elevation, lengthIn, meta } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** Formats that lines are read from. */
export const LINE_FORMATS = ['geojson', 'dxf', 'shp', 'gpkg', 'landxml', 'list'] as const;
export type LineFormat = (typeof LINE_FORMATS)[number];

/** The format a file is in, by its ending. */
export function lineFormatOf(fileName: string): LineFormat {
  switch (fileName.split('.').at(-1)?.toLowerCase()) {
    case 'dxf':
      return 'dxf';
    case 'shp':
    case 'zip':
      return 'shp';
    case 'gpkg':
      return 'gpkg';
    case 'xml':
    case 'landxml':
      return 'landxml';
    case 'csv':
    case 'txt':
      return 'list';
    default:
      return 'geojson';
  }
}

export const importLines = {
  id: 'import-lines',
  stage: 'lines',
  title: 'Import lines',
  does: 'Reads lines and outlines from GeoJSON, DXF, Shapefile, GeoPackage, LandXML or a coded list of points.',
  takesFile: true,
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      format: choice(['by-ending', ...LINE_FORMATS], {
        default: 'by-ending',
        label: 'Format',
        help: 'How the lines are written.',
        isAdvanced: true,
        choices: {
          'by-ending': 'as the file name ends',
          geojson: 'GeoJSON',
          dxf: 'DXF',
          shp: 'Shapefile',
          gpkg: 'GeoPackage',
          landxml: 'LandXML',
          list: 'coded list',
        },
      }),
      order: choice(POINT_ORDERS, {
        default: 'PNEZD',
        label: 'Order',
        help: 'Of a list: P number, N northing, E easting, Z elevation, D code.',
        appliesTo: { name: 'format', is: ['list', 'by-ending'] },
        isAdvanced: true,
      }),
      role: choice(LINE_ROLES, {
        default: 'breakline',
        label: 'Use as',
        help: 'What lines are whose code is not in the code list yet. A known code is used as the list says.',
        choices: LINE_ROLE_NAMES,
      }),
      code: codeNameSchema.optional().meta(
        meta({
          label: 'Code',
          help: 'The feature code of all lines in the file. Left out: the layer or code each has there.',
          quantity: 'name',
        }),
      ),
      level: elevation({ label: 'Level', help: 'Elevation of all vertices, in place of their own.' }),
      curveTolerance: lengthIn(unit)({
        label: 'Curve tolerance',
        help: 'Arcs and splines become legs that stay this near to them.',
        metres: { default: 0.01, min: 0.0001, max: 10 },
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type ImportLinesParameters = z.output<ReturnType<typeof importLines.parameters>>;
