import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { any, choice, meta } from '../../parameters/index.js';
import { lineOfText } from '../../text.js';
import type { OperationDescription } from '../operation-description.js';

export const sendToCad = {
  id: 'send-to-cad',
  stage: 'deliver',
  title: 'Send to CAD',
  does: 'Sends surfaces, contours and lines to a drawing program that answers what it read of each: layers, counts, unit, place. What differs is told at once.',
  parameters: (_unit: LengthUnit) =>
    z
      .strictObject({
        by: choice(['address', 'folder'], {
          default: 'address',
          label: 'Sent by',
          help: 'To the address of the drawing program, or into the folder that it watches on the server.',
          choices: { address: 'address', folder: 'folder' },
        }),
        address: lineOfText(2000)
          .default('')
          .meta(
            meta({
              label: 'Address',
              help: 'Of the drawing program’s receiver.',
              quantity: 'name',
              appliesTo: { name: 'by', is: ['address'] },
            }),
          ),
        surfaces: any('surface', { label: 'Surfaces', help: 'Sent with their triangles.' }),
        as: choice(['landxml', 'dxf'], {
          default: 'landxml',
          label: 'Surfaces as',
          help: 'LandXML keeps a surface one thing; DXF draws its triangles as faces.',
          choices: { landxml: 'LandXML', dxf: 'DXF faces' },
        }),
        contours: any('contours', { label: 'Contours', help: 'Sent as DXF polylines at their elevation.' }),
        lines: any('lines', { label: 'Lines', help: 'Sent as DXF polylines on the layers of their codes.' }),
      })
      .refine(({ by, address }) => by === 'folder' || address !== '', {
        message: 'Address: give that of the drawing program.',
        path: ['address'],
      })
      .refine(({ surfaces, contours, lines }) => surfaces.length + contours.length + lines.length > 0, {
        message: 'Choose at least one surface, contour set or code to send.',
        path: ['surfaces'],
      }),
} as const satisfies OperationDescription;
export type SendToCadParameters = z.output<ReturnType<typeof sendToCad.parameters>>;
