import { findBridges, type FindBridgesParameters } from '@pampero/contract';
import { classMask } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { DECK_MISTAKEN_FOR, DECK_SEES, deckScale, type GroundSums } from '@pampero/core/objects';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { classAtLevels } from '../../passes/class-at-levels.js';
import { sumClasses } from '../../passes/class-sums.js';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { serverOperation } from '../server-operation.js';
import { nodeGroups } from '../../passes/node-groups.js';
import { frameOver } from '../../passes/raster-frames.js';

const DECK = 17;

/** Decks of bridges, taken out of ground or roofs. */
function findBridgesIn(pool: TaskPool, parameters: OnCloud<FindBridgesParameters>, unit: LengthUnit): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { cloudId, widest, leastDrop } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const quantisation = quantisationOf(facts);
    const spacing = averageSpacing(facts);
    const metre = 1 / metresPer(unit);
    const { cell, thickness } = deckScale(spacing, metre);
    const frame = frameOver(facts, cell);
    const groups = await nodeGroups(job.read, cloudId);
    const masks = [DECK_SEES.land, DECK_SEES.standing, DECK_SEES.covering].map(classMask);
    const [land, standing, covering] = (await sumClasses({ pool, job, signal }, facts, groups, frame, masks, (share) =>
      report(0.4 * share, 'Gathering heights'),
    )) as [GroundSums, GroundSums, GroundSums];
    if (!land.count.some((n) => n > 0))
      throw new PamperoError('no-ground', {
        what: `The cloud ${facts.name} has no ground points. A bridge deck is found from the land at both ends.`,
        fix: 'Find its ground first.',
      });
    report(0.4, 'Looking for decks');
    const found = await pool.run(
      'decksOf',
      { seen: { land, standing, covering }, quantisation, options: { widest, leastDrop, metre } },
      signal,
    );
    const near = { takes: classMask(DECK_MISTAKEN_FOR), above: thickness, below: thickness, code: DECK };
    // Where there is no deck there is nothing to be classed.
    const passed = found.decks === 0 ? [] : groups;
    const { changes, gained } = await classAtLevels({ pool, job, signal }, facts, passed, found, near, (share) =>
      report(0.6 + 0.35 * share, 'Classing points'),
    );
    const count = gained[DECK] ?? 0;
    const decks = formatCounted(found.decks, 'deck');
    return {
      outcome:
        found.decks === 0
          ? 'No bridge was found. One that is wider, lower or beyond the cloud at an end has to be outlined by hand.'
          : `${formatCount(count)} points to bridge deck, ${decks}`,
      figures: [
        { label: 'To 17 Bridge deck', value: count, quantity: 'count' },
        { label: 'Decks', value: found.decks, quantity: 'count' },
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}

export const operation = serverOperation(findBridges, (parameters, { pool, unit }) =>
  onEachCloud(parameters, (own) => findBridgesIn(pool, own, unit)),
);
