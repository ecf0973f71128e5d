import type { LengthUnit } from '@pampero/core/geodesy';
import { FOOT_SCALES, METRIC_SCALES, ORIENTATIONS, PAPERS, type Paper } from '@pampero/core/plans';
import { z } from 'zod';
import { any, choice, elevation, flag, oneOrNone, productName, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** The scale that is chosen for the surveyor. */
export const FITTING_SCALE = 'fit';

const PAPER_NAMES: Readonly<Record<Paper, string>> = {
  A4: 'A4',
  A3: 'A3',
  A2: 'A2',
  A1: 'A1',
  letter: 'Letter, 8.5 × 11 in',
  tabloid: 'Tabloid, 11 × 17 in',
  'arch-d': 'Arch D, 24 × 36 in',
};

export const scalesIn = (unit: LengthUnit): readonly number[] => (unit === 'metre' ? METRIC_SCALES : FOOT_SCALES);

export const drawPlan = {
  id: 'draw-plan',
  stage: 'deliver',
  title: 'Draw a plan',
  does: 'Draws contours, lines and points to scale on sheets with frame, grid, legend and title block.',
  readsControl: true,
  parameters: (unit: LengthUnit) => {
    const scales = scalesIn(unit).map(String);
    return z.strictObject({
      title: words({
        default: '',
        label: 'Title',
        help: 'The largest words of the title block; the job’s name if empty.',
      }),
      paper: choice(Object.keys(PAPERS) as [Paper, ...Paper[]], {
        default: unit === 'metre' ? 'A3' : 'tabloid',
        label: 'Paper',
        help: 'Of each sheet.',
        choices: PAPER_NAMES,
      }),
      orientation: choice(ORIENTATIONS, { default: 'landscape', label: 'Orientation', help: 'Of the paper.' }),
      scale: choice([FITTING_SCALE, ...scales], {
        default: FITTING_SCALE,
        label: 'Scale',
        help: 'Land that does not fit one sheet goes on several that overlap.',
        choices: {
          [FITTING_SCALE]: 'the largest that fits one sheet',
          ...Object.fromEntries(
            scales.map((scale) => [
              scale,
              unit === 'metre' ? `1 : ${scale}` : `1 in = ${Number(scale) / 12} ft, 1 : ${scale}`,
            ]),
          ),
        },
      }),
      contours: any('contours', { label: 'Contours', help: 'Drawn with their elevations.' }),
      lines: any('lines', { label: 'Lines', help: 'Each code in its colour and style.' }),
      spots: oneOrNone('spots', { label: 'Numbered points', help: 'Drawn with number and elevation.', none: 'none' }),
      picture: oneOrNone('picture', { label: 'Picture', help: 'Lies under everything, paled.', none: 'none' }),
      control: flag({ default: true, label: 'Control and check points', help: 'With number and elevation.' }),
      client: words({ default: '', label: 'Client', help: 'For the title block.' }),
      drawnBy: words({ default: '', label: 'Drawn by', help: 'For the title block.' }),
      number: words({ default: '', max: 40, label: 'Drawing number', help: 'For the title block.' }),
      note: words({ default: '', max: 240, label: 'Note', help: 'What the plan says beside its legend.' }),
      centreEast: elevation({
        label: 'Centre easting',
        help: 'Set with the northing, one sheet about this place; left out, all that is drawn.',
        isAdvanced: true,
      }),
      centreNorth: elevation({
        label: 'Centre northing',
        help: 'Set with the easting.',
        isAdvanced: true,
      }),
      name: productName('What the plan is called.'),
    });
  },
} as const satisfies OperationDescription;
export type DrawPlanParameters = z.output<ReturnType<typeof drawPlan.parameters>>;
