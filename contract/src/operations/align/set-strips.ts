import { z } from 'zod';
import { meta, one, oneOrNone, productName } from '../../parameters/index.js';
import { lineOfText } from '../../text.js';
import type { OperationDescription } from '../operation-description.js';

const byHandSchema = z
  .strictObject({
    name: lineOfText(60).min(1, 'Give the strip a name.'),
    /** First and last time of its points, on the cloud's clock; left out where it goes by point source ID. */
    from: z.number().optional(),
    to: z.number().optional(),
    sourceId: z.int().min(0).max(65_535).optional(),
    isLeftOut: z.boolean().default(false),
  })
  .refine(({ from, to, sourceId }) => (sourceId === undefined ? from !== undefined && to !== undefined : true), {
    error: 'A strip needs a point source ID, or a first and a last time.',
  })
  .refine(({ from, to }) => from === undefined || to === undefined || from < to, {
    error: 'The last time of a strip must be later than its first.',
  });
export type StripByHand = z.infer<typeof byHandSchema>;

export const setStrips = {
  id: 'set-strips',
  stage: 'align',
  title: 'Set strips by hand',
  does: 'Names strips, leaves some out, joins those of one name, and takes the times drawn on the trajectory.',
  parameters: () =>
    z.strictObject({
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud whose strips are set.' }),
      trajectory: oneOrNone('trajectory', {
        label: 'Trajectory',
        help: 'Gives lengths, headings and heights.',
        none: 'none',
      }),
      strips: z
        .array(byHandSchema)
        .min(1, 'One strip is the least.')
        .max(2000)
        .refine((list) => new Set(list.map(({ sourceId }) => sourceId === undefined)).size === 1, {
          error: 'Strips go by times or by point source ID, all alike.',
        })
        .refine(
          (list) => {
            const timed = list.filter(({ from }) => from !== undefined).sort((a, b) => a.from! - b.from!);
            return timed.every(({ from }, k) => k === 0 || from! > timed[k - 1]!.to!);
          },
          { error: 'Two strips overlap in time. Let one end before the next begins.' },
        )
        .meta(meta({ label: 'Strips', help: 'Name, times or point source ID of each.', isHidden: true })),
      name: productName('What this set of strips is called.'),
    }),
} as const satisfies OperationDescription;
export type SetStripsParameters = z.output<ReturnType<typeof setStrips.parameters>>;
