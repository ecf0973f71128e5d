import { POINT_ORDERS } from '@pampero/core/formats/point-list';
import { LINE_ROLES } from '@pampero/core/terrain';
import { z } from 'zod';
import { meta, productName, type OperationDescription } from './operation-description.js';

const fileName = (help: string) =>
  z
    .string()
    .min(1)
    .max(255)
    .meta(meta({ label: 'File', help }));
const pointOrder = (help: string) =>
  z
    .enum(POINT_ORDERS)
    .default('PNEZD')
    .meta(meta({ label: 'Order', help }));

/** Import has a file to send, so it has a route of its own; it is described here for the field book and the docs. */
export const importCloud = {
  id: 'import-cloud',
  stage: 'intake',
  title: 'Import cloud',
  does: 'Reads a cloud into the job: LAS, LAZ, COPC, PLY or text. The file itself is never changed.',
  method: 'LAS Specification 1.4 R15, ASPRS 2019.',
  parameters: () =>
    z.strictObject({
      fileName: fileName('The name of the file sent.'),
      name: productName('Name', 'What the cloud is called in the layers.'),
    }),
} as const satisfies OperationDescription;

export const importControl = {
  id: 'import-control',
  stage: 'intake',
  title: 'Import points',
  does: 'Reads control or check points from a list; the cloud is then looked at round each.',
  parameters: () =>
    z.strictObject({
      fileName: fileName('The name of the list.'),
      order: pointOrder('P number, N northing, E easting, Z elevation, D code.'),
      role: z
        .enum(['control', 'check'])
        .default('control')
        .meta(meta({ label: 'They are', help: 'Control points tie the cloud down; check points judge it.' })),
    }),
} as const satisfies OperationDescription;

/** Forms lines come in; where none is named, the file's ending tells. */
export const LINE_FORMATS = ['geojson', 'dxf', 'list'] as const;

export const importLines = {
  id: 'import-lines',
  stage: 'lines',
  title: 'Import lines',
  does: 'Reads breaklines, boundaries or water outlines from GeoJSON, DXF or a coded list of points.',
  parameters: () =>
    z.strictObject({
      fileName: fileName('The name of the file.'),
      format: z
        .enum(LINE_FORMATS)
        .default('geojson')
        .meta(meta({ label: 'Form', help: 'How the lines are written.' })),
      order: pointOrder('Of a list: P number, N northing, E easting, Z elevation, D code.'),
      role: z
        .enum(LINE_ROLES)
        .default('breakline')
        .meta(
          meta({
            label: 'They are',
            help: 'Breaklines are held as sides of triangles, and along soft ones the land is round; a surface ends at its boundary, has none in a hole, is level in water.',
            choices: {
              breakline: 'breaklines',
              soft: 'soft breaklines',
              boundary: 'a boundary',
              hole: 'holes',
              water: 'water outlines',
            },
          }),
        ),
      level: z
        .number()
        .optional()
        .meta(
          meta({ label: 'Level', help: 'Elevation of all corners, in the place of their own.', quantity: 'elevation' }),
        ),
      name: productName('Name', 'What the lines are called in the layers.'),
    }),
} as const satisfies OperationDescription;

export const importSurface = {
  id: 'import-surface',
  stage: 'terrain',
  title: 'Import surface',
  does: 'Reads a surface as it is, a design for instance: LandXML, DXF with 3D faces, or an ASCII grid.',
  parameters: () =>
    z.strictObject({
      fileName: fileName('The name of the file; its ending tells the form.'),
      name: productName('Name', 'What the surface is called in the layers.'),
    }),
} as const satisfies OperationDescription;
export const importGrid = {
  id: 'import-grid',
  stage: 'terrain',
  title: 'Import grid',
  does: 'Reads an elevation grid as it is: GeoTIFF or ASCII grid, in the system of the job.',
  parameters: () =>
    z.strictObject({
      fileName: fileName('The name of the file; its ending tells the form.'),
      name: productName('Name', 'What the grid is called in the layers.'),
    }),
} as const satisfies OperationDescription;
export type ImportGridParameters = z.output<ReturnType<typeof importGrid.parameters>>;
export type ImportSurfaceParameters = z.output<ReturnType<typeof importSurface.parameters>>;
