import { z } from 'zod';
import { flag, meta, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const importPicture = {
  id: 'import-picture',
  stage: 'intake',
  title: 'Import picture',
  does: 'Takes in an orthophoto or another picture that lies on the ground: GeoTIFF, or JPEG, PNG or TIFF with a world file.',
  takesFile: true,
  parameters: () =>
    z.strictObject({
      name: productName('What the picture is called in the layers.'),
      worldFile: z
        .string()
        .max(4000)
        .optional()
        .meta(
          meta({
            label: 'World file',
            help: 'The six numbers that say where the picture lies, where its own file does not.',
            isHidden: true,
          }),
        ),
      epsg: z
        .int('EPSG code: type a whole number.')
        .min(1024)
        .max(999_999)
        .optional()
        .meta(
          meta({
            label: 'EPSG code',
            help: 'The system the picture lies in, where its file does not say and it is another than the job’s.',
            quantity: 'count',
            none: 'as the file says, or the job',
            isAdvanced: true,
          }),
        ),
      isExact: flag({
        default: false,
        label: 'Keep every value',
        help: 'Without the loss of a photograph’s compression: three to six times as large.',
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type ImportPictureParameters = z.output<ReturnType<typeof importPicture.parameters>>;
