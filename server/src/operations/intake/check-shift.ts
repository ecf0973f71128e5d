import { checkPictureShift, type CheckShiftParameters, type Figure, type ProductOf } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { ShiftFound } from '@pampero/core/shifts';
import { formatNumber } from '@pampero/core/wording';
import { shiftOf } from '../../passes/picture-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

function work(parameters: CheckShiftParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const picture = await readProduct(job.read, parameters.picture, 'picture');
    const { found, frame, cloudName } = await shiftOf(
      { pool, job, signal },
      picture,
      parameters.cloud,
      parameters.cell,
      (share) => report(0.95 * share, 'Comparing picture and cloud'),
    );
    const tiles = Buffer.from(JSON.stringify(found.tiles));
    return {
      outcome: shiftInWords(found, unit),
      figures: shiftFigures(found),
      store: (models) =>
        storeProduct(models, {
          kind: 'shift-check',
          name: `Shift of ${picture.name}`,
          operation: checkPictureShift.id,
          parameters,
          facts: factsOf(found, picture.name, cloudName, frame.cell),
          blobs: { tiles },
        }),
    };
  };
}

function factsOf(
  found: ShiftFound,
  pictureName: string,
  cloudName: string,
  cell: number,
): ProductOf<'shift-check'>['facts'] {
  const { tiles, agreeing, east, north, spread, standardError, similarity, sureness, because, witness } = found;
  const known = (value: number): number | null => (Number.isFinite(value) ? value : null);
  return {
    pictureName,
    cloudName,
    east,
    north,
    spread: known(spread),
    standardError: known(standardError),
    tiles: tiles.length,
    agreeing,
    sureness,
    because,
    ...(witness !== undefined && { witness }),
    similarity: { ...similarity, centre: [similarity.centre[0], similarity.centre[1]] },
    cell,
  };
}

/** What is told of a shift. */
export type ToldShift = Pick<ShiftFound, 'east' | 'north' | 'spread' | 'standardError' | 'sureness' | 'because'>;

/** What a shift check found, in one line. */
export function shiftInWords({ east, north, spread, sureness, because }: ToldShift, unit: LengthUnit): string {
  if (sureness === 'unknown') return `The shift cannot be told: ${because}`;
  const { short } = lengthUnits[unit];
  const length = (value: number): string => `${formatNumber(Math.abs(value), 2)} ${short}`;
  return `The picture lies ${length(east)} ${east < 0 ? 'west' : 'east'} and ${length(north)} ${north < 0 ? 'south' : 'north'} of the cloud, tiles scatter by ${length(spread)}. ${sureness === 'sure' ? 'Sure' : 'Doubtful'}: ${because}`;
}

function shiftFigures({ east, north, spread, sureness, agreeing, tiles }: ShiftFound): Figure[] {
  if (sureness === 'unknown') return [];
  return [
    { label: 'Shift', value: Math.hypot(east, north), quantity: 'length' },
    { label: 'Scatter', value: spread, quantity: 'length' },
    { label: 'Tiles that agree', value: agreeing / Math.max(1, tiles.length), quantity: 'share' },
  ];
}

export const operation = serverOperation(checkPictureShift, work);
