import { movePicture, type MovePictureParameters, type ProductOf } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { type Placement } from '@pampero/core/imagery';
import { undoSimilarity, type Similarity } from '@pampero/core/shifts';
import { PamperoError } from '@pampero/core/task';
import { formatNumber } from '@pampero/core/wording';
import { frameOf } from '../../passes/picture-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { tilesOwner } from '../../store/picture-repository.js';
import { readProduct, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** A picture at another place: it takes the place of the one before, and shows the same tiles. */
function work({ picture: id, check, how, east, north }: MovePictureParameters, { unit }: Surroundings): RunWork {
  return async ({ job }) => {
    const picture = await readProduct(job.read, id, 'picture');
    const found = check === undefined ? undefined : await readProduct(job.read, check, 'shift-check');
    if (found) refuseUnfit(found, picture);
    const centre = [picture.facts.east, picture.facts.north] as const;
    const shift: Similarity = !found
      ? { east: -east, north: -north, turn: 0, scale: 1, centre }
      : how === 'shift'
        ? { ...found.facts.similarity, east: found.facts.east, north: found.facts.north, turn: 0, scale: 1 }
        : found.facts.similarity;
    if (!found && east === 0 && north === 0)
      throw new PamperoError('nothing-to-do', {
        what: 'Neither a shift check nor a length to move by was given.',
        fix: 'Choose a shift check, or type how far the picture is moved.',
      });
    const placement = moved(frameOf(picture.facts), shift);
    const way = Math.hypot(placement.east - picture.facts.east, placement.north - picture.facts.north);
    const told = found
      ? `Moved by ${formatNumber(way, 2)} ${lengthUnits[unit].short} after “${found.name}”`
      : `Moved by ${formatNumber(way, 2)} ${lengthUnits[unit].short} by typed numbers`;
    const tilesOf = await tilesOwner(job.read, id);
    return {
      outcome: `${picture.name}: ${told.toLowerCase()}`,
      figures: [{ label: 'Moved by', value: way, quantity: 'length' }],
      store: (models) =>
        storeProduct(models, {
          kind: 'picture',
          name: picture.name,
          operation: picture.operation,
          parameters: picture.parameters,
          inputs: picture.inputs,
          facts: { ...picture.facts, ...placement, tilesOf, moved: told },
          blobs: {},
          replaces: id,
        }),
    };
  };
}

/** @throws PamperoError where the check is of another picture, of one that lay elsewhere, or knows nothing */
function refuseUnfit(check: ProductOf<'shift-check'>, picture: ProductOf<'picture'>): void {
  if (check.facts.sureness === 'unknown')
    throw new PamperoError('shift-unknown', {
      what: `“${check.name}” could not tell the shift: ${check.facts.because}.`,
      fix: 'Type how far the picture is moved.',
    });
  if (check.parameters['picture'] !== picture.id)
    throw new PamperoError('shift-of-another', {
      what: `“${check.name}” is of another picture, or of this one before it was moved.`,
      fix: 'Check the shift again.',
    });
}

function moved(p: Placement, shift: Similarity): Placement {
  const at = (e: number, n: number): [number, number] => undoSimilarity(shift, e, n);
  const [east, north] = at(p.east, p.north);
  const [ce, cn] = at(p.east + p.eastPerColumn, p.north + p.northPerColumn);
  const [re, rn] = at(p.east + p.eastPerRow, p.north + p.northPerRow);
  return {
    east,
    eastPerColumn: ce - east,
    eastPerRow: re - east,
    north,
    northPerColumn: cn - north,
    northPerRow: rn - north,
  };
}

export const operation = serverOperation(movePicture, work);
