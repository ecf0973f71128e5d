import type { LengthUnit } from '@pampero/core/geodesy';
import { BREAK_KINDS } from '@pampero/core/breaks';
import { z } from 'zod';
import { choice, classList, clouds, figure, lengthIn, meta } from '../../parameters/index.js';

/** Where the lines of each kind go, strand by strand. */
export const BREAK_CODES = {
  kerb: { foot: 'KERB-FOOT', top: 'KERB-TOP', back: 'KERB-BACK' },
  wall: { foot: 'WALL-FOOT', top: 'WALL-TOP' },
  bank: { top: 'BANK-TOP', toe: 'BANK-TOE' },
  ridge: { line: 'RIDGE' },
  ditch: { line: 'DITCH' },
  track: { left: 'TRACK-EDGE', right: 'TRACK-EDGE' },
  bend: { line: 'BREAK' },
  tone: { line: 'SEAL-EDGE' },
} as const satisfies Record<(typeof BREAK_KINDS)[number], Record<string, string>>;

/** What is looked for across a line; shared by what follows a guide and what searches a whole cloud. */
export const breakParameters = (unit: LengthUnit) => {
  const length = lengthIn(unit);
  const of = (...is: (typeof BREAK_KINDS)[number][]) => ({ appliesTo: { name: 'kind', is } });
  return {
    clouds: clouds('The clouds whose points are followed, together.'),
    classes: classList({ label: 'Classes', help: 'Points of these classes show the break.' }),
    kind: choice(BREAK_KINDS, {
      default: 'kerb',
      label: 'Find',
      help: 'What the profile across the line looks like.',
      choices: {
        kerb: 'kerb and gutter',
        wall: 'foot and top of a wall',
        bank: 'top and toe of a bank',
        ridge: 'ridge',
        ditch: 'bottom of a ditch',
        track: 'both edges of a track',
        bend: 'bend of the slope',
        tone: 'edge by intensity',
      },
    }),
    leastHeight: length({
      label: 'Minimum height',
      help: 'From the foot to the top.',
      metres: { default: 0.06, min: 0.01, max: 100 },
      ...of('kerb', 'wall'),
    }),
    mostHeight: length({
      label: 'Maximum height',
      help: 'From the foot to the top. For a wall, give what the highest has.',
      metres: { default: 0.3, min: 0.02, max: 100 },
      ...of('kerb', 'wall'),
    }),
    faceWidth: length({
      label: 'Width of the face',
      help: 'How far foot and top may lie apart in plan.',
      metres: { default: 0.1, min: 0, max: 10 },
      isAdvanced: true,
      ...of('kerb', 'wall'),
    }),
    stoneWidth: length({
      label: 'Width of the kerb stone',
      help: 'The back is looked for about this far behind the top. 0 looks for none.',
      metres: { default: 0.15, min: 0, max: 2 },
      isAdvanced: true,
      ...of('kerb'),
    }),
    leastTurn: figure({
      default: 0.2,
      min: 0.01,
      max: 10,
      label: 'Change of slope at least',
      help: 'As rise over run: 0.2 is from level to 1 in 5.',
      ...of('bank', 'ridge', 'ditch', 'track', 'bend'),
    }),
    halfProfile: length({
      label: 'Half width of a profile',
      help: 'How far to either side the ground is looked at. 0 takes what suits the kind and the point spacing.',
      metres: { default: 0, min: 0, max: 200 },
    }),
    longestGap: length({
      label: 'Bridge gaps up to',
      help: 'Where the break is not seen, at a drive or under a car, the line goes straight on. Bridged gaps are listed.',
      metres: { default: 6, min: 0, max: 200 },
    }),
    tolerance: length({
      label: 'Simplify within',
      help: 'Leaves out vertices that lie this near to the line without them.',
      metres: { default: 0.02, min: 0, max: 10 },
      isAdvanced: true,
    }),
  };
};

/** What is known of a line that was found, for whoever accepts it. */
export const foundLineSchema = z.strictObject({
  /** Corners of each strand, easting, northing and elevation. */
  strands: z.record(z.string(), z.array(z.tuple([z.number(), z.number(), z.number()]))),
  /** Of points to the profiles, root mean square. */
  residual: z.number(),
  strength: z.number(),
  /** Share of the profiles along it that show it. */
  agree: z.number(),
  length: z.number(),
  bridged: z.array(z.strictObject({ easting: z.number(), northing: z.number(), length: z.number() })),
  isClosed: z.boolean(),
});
export type FoundLine = z.infer<typeof foundLineSchema>;

/** One that waits to be judged, or was. */
export const proposalSchema = foundLineSchema.extend({ state: z.enum(['waiting', 'accepted', 'refused']) });
export type Proposal = z.infer<typeof proposalSchema>;

export const guideSchema = z
  .array(z.tuple([z.number(), z.number()]))
  .min(2, 'A guide has two places at least.')
  .max(10_000)
  .meta(meta({ label: 'Guide', help: 'Places along the break, roughly.', isHidden: true }));
