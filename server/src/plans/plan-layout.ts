import { FITTING_SCALE, scalesIn, type DrawPlanParameters } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import {
  fittingScale,
  MOST_SHEETS,
  paperLayout,
  planSheets,
  windowAt,
  type PaperLayout,
  type PlanSheet,
} from '@pampero/core/plans';
import type { PlanBounds } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';

export interface PlanLayout {
  readonly paper: PaperLayout;
  readonly scale: number;
  readonly sheets: readonly PlanSheet[];
  readonly columns: number;
  readonly rows: number;
}

type Asked = Pick<DrawPlanParameters, 'paper' | 'orientation' | 'scale' | 'centreEast' | 'centreNorth'>;

/** How the sheets of a plan lie on the land. @throws PamperoError `half-a-place`, `too-many-sheets` */
export function layOutPlan(asked: Asked, land: PlanBounds, unit: LengthUnit): PlanLayout {
  const paper = paperLayout(asked.paper, asked.orientation);
  const metres = metresPer(unit);
  const scale = asked.scale === FITTING_SCALE ? fittingScale(paper, land, metres, scalesIn(unit)) : Number(asked.scale);
  const { centreEast, centreNorth } = asked;
  if ((centreEast === undefined) !== (centreNorth === undefined))
    throw new PamperoError('half-a-place', {
      what: 'The centre of the sheet has only one coordinate.',
      fix: 'Give easting and northing, or neither.',
    });
  if (centreEast !== undefined && centreNorth !== undefined) {
    const window = windowAt(paper, scale, metres, centreEast, centreNorth);
    return { paper, scale, sheets: [{ name: 'A1', window }], columns: 1, rows: 1 };
  }
  const laid = planSheets(paper, land, scale, metres);
  if (laid.sheets.length === 0)
    throw new PamperoError('too-many-sheets', {
      what: `At 1 : ${scale} the plan would take ${laid.columns * laid.rows} sheets; ${MOST_SHEETS} at most are drawn.`,
      fix: 'Choose a smaller scale, larger paper, or a centre for one sheet.',
    });
  return { paper, scale, ...laid };
}
