import { colourCloud, isKind, type ColourCloudParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import type { CloudPass } from '../../passes/cloud-pass.js';
import { colourPoints } from '../../passes/colour-points.js';
import { frameOf, shiftOf, spacingOf } from '../../passes/picture-site.js';
import { reliefOf } from '../../passes/relief.js';
import type { RunWork } from '../../runs/run-service.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { finishColourSet, removeColourSet } from '../../store/colour-repository.js';
import { listProducts, readProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { shiftInWords, type ToldShift } from './check-shift.js';

/** Part of the run that the look at the shift takes. */
const LOOK = 0.3;

function work(parameters: ColourCloudParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const pass = { pool, job, signal };
    const picture = await readProduct(job.read, parameters.picture, 'picture');
    const look = async (): Promise<ToldShift> => {
      const onShare = (share: number): void => report(LOOK * share, 'Comparing picture and cloud');
      return (await shiftOf(pass, picture, parameters.cloud, undefined, onShare)).found;
    };
    const found = (await checkedBefore(pass, parameters)) ?? (await look());
    const facts = await readCloudFacts(job.read, parameters.cloud);
    const limit = parameters.shiftLimit ?? Math.max(2 * pixelSize(frameOf(picture.facts)), spacingOf(facts));
    const { short } = lengthUnits[unit];
    if (found.sureness === 'sure' && Math.hypot(found.east, found.north) > limit + 2 * found.standardError)
      throw new PamperoError('picture-shifted', {
        what: `${shiftInWords(found, unit)}. That is more than the ${formatNumber(limit, 2)} ${short} allowed, and nothing was coloured.`,
        fix: 'Run “Check shift” and “Move picture”, then colour; or allow a larger shift.',
      });

    const { classes, withWithheld } = parameters;
    const surface =
      parameters.surface === undefined ? undefined : await reliefOf(pass, parameters.surface, parameters.height);
    const choice = { classes, withWithheld, surface };
    const { setId, coloured, outside, tooHigh } = await colourPoints(
      { ...pass, historyId },
      parameters.cloud,
      picture,
      choice,
      (share) => report(LOOK + (0.98 - LOOK) * share, 'Colouring'),
    );
    if (coloured === 0) {
      await job.write((models) => removeColourSet(models, setId));
      throw new PamperoError('nothing-coloured', {
        what: `No point of ${facts.name} lies where the picture is, of the classes that were chosen.`,
        fix: 'Choose other classes, or another picture.',
      });
    }
    return {
      outcome: [
        `${formatCount(coloured)} points coloured from ${picture.name}`,
        ...(outside > 0 ? [`${formatCount(outside)} lie outside it`] : []),
        ...(tooHigh > 0 ? [`${formatCount(tooHigh)} stand too high`] : []),
        told(found, unit),
      ].join('. '),
      figures: [
        { label: 'Points coloured', value: coloured, quantity: 'count' },
        { label: 'Outside the picture', value: outside, quantity: 'count' },
        ...(surface ? [{ label: 'Left as too high', value: tooHigh, quantity: 'count' as const }] : []),
      ],
      store: async (models) => ({ effects: [await finishColourSet(models, parameters.cloud, setId)] }),
    };
  };
}

/** What a shift check of this very picture and cloud found that has not gone stale. */
async function checkedBefore(
  { job }: CloudPass,
  { picture, cloud }: ColourCloudParameters,
): Promise<ToldShift | undefined> {
  const checks = (await listProducts(job.read)).filter(isKind('shift-check'));
  const fresh = checks.filter(
    ({ parameters: p, isStale }) => !isStale && p['picture'] === picture && p['cloud'] === cloud,
  );
  const facts = fresh.at(-1)?.facts;
  return facts && { ...facts, spread: facts.spread ?? NaN, standardError: facts.standardError ?? NaN };
}

function told(found: ToldShift, unit: Surroundings['unit']): string {
  return found.sureness === 'sure'
    ? `Shift ${formatNumber(Math.hypot(found.east, found.north), 2)} ${lengthUnits[unit].short}`
    : `Whether the picture lies right could not be told for sure: ${found.because}`;
}

export const operation = serverOperation(colourCloud, work);
