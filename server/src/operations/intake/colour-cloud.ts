import { colourCloud, isKind, type ColourCloudParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import { unpackArrays } from '@pampero/core/binary';
import type { RasterFrame } from '@pampero/core/raster';
import { Cancelled, PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { overGroups, type CloudPass } from '../../passes/cloud-pass.js';
import { groupNodes } from '../../passes/node-groups.js';
import { frameOf, readLevel, shiftOf, spacingOf } from '../../passes/picture-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { shared } from '../../shared-memory.js';
import { listStoredNodes, quantisationOf, readCloudFacts, type StoredNode } from '../../store/cloud-repository.js';
import {
  beginColourSet,
  finishColourSet,
  insertColouredNodes,
  removeColourSet,
} from '../../store/colour-repository.js';
import { listProducts, readProduct, readProductBlob } from '../../store/product-repository.js';
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

    const quantisation = quantisationOf(facts);
    const { attributeNames: names, columns } = facts;
    const { classes, withWithheld } = parameters;
    const surface = parameters.surface === undefined ? undefined : await surfaceOf(pass, parameters);
    const setId = await job.write((models) => beginColourSet(models, parameters.cloud, historyId), {
      isPromised: false,
    });
    try {
      const groups = groupNodes(await listStoredNodes(job.read, parameters.cloud));
      const parts = await overGroups(
        pass,
        groups,
        { attributes: true, onShare: (share) => report(LOOK + (0.98 - LOOK) * share, 'Colouring') },
        async (nodes, group, transfer) => {
          const level = await readLevel(job.read, picture.id, picture.facts, 0, planOf(group, quantisation));
          const task = { nodes, quantisation, names, columns, picture: level, classes, withWithheld, surface };
          const { nodes: coloured, ...sums } = await pool.run('colourNodes', task, signal, transfer);
          await job.write((models) => insertColouredNodes(models, setId, coloured), { isPromised: false });
          return sums;
        },
      );
      if (signal.aborted) throw new Cancelled();
      const sum = (of: (part: (typeof parts)[number]) => number): number =>
        parts.reduce((all, part) => all + of(part), 0);
      const [coloured, outside, tooHigh] = [sum((p) => p.coloured), sum((p) => p.outside), sum((p) => p.tooHigh)];
      if (coloured === 0)
        throw new PamperoError('nothing-coloured', {
          what: `No point of ${facts.name} lies where the picture is, of the classes that were chosen.`,
          fix: 'Choose other classes, or another picture.',
        });
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
    } catch (error) {
      await job.write((models) => removeColourSet(models, setId));
      throw error;
    }
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

/** The surface as a grid that tasks share. */
async function surfaceOf(
  { pool, job, signal }: CloudPass,
  { surface, height }: ColourCloudParameters,
): Promise<{ values: Float32Array; frame: RasterFrame; height: number }> {
  const product = await readProduct(job.read, surface!, 'surface');
  const tin = await readProductBlob(job.read, product.id, 'tin');
  const cell = Math.max(height / 2, Math.sqrt(product.facts.areaInPlan / 4e6));
  const { grid, facts } = await pool.run('gridOfSurface', { tin, cell }, signal);
  const { east, north, columns, rows } = facts;
  const values = shared(unpackArrays(grid).arrays['elevation'] as Float32Array);
  return { values, frame: { east, north, cell, columns, rows }, height };
}

/** The box about some nodes. */
function planOf(
  nodes: readonly StoredNode[],
  { scale, offset }: ReturnType<typeof quantisationOf>,
): { west: number; south: number; east: number; north: number } {
  const of = (pick: (...values: number[]) => number, name: 'minX' | 'minY' | 'maxX' | 'maxY', axis: 0 | 1): number =>
    nodes.reduce((best, node) => pick(best, node[name]), pick()) * scale[axis] + offset[axis];
  return {
    west: of(Math.min, 'minX', 0),
    south: of(Math.min, 'minY', 1),
    east: of(Math.max, 'maxX', 0),
    north: of(Math.max, 'maxY', 1),
  };
}

export const operation = serverOperation(colourCloud, work);
