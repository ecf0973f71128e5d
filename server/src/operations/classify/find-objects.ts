import { findObjects, type FindObjectsParameters, type JobClass } from '@pampero/contract';
import { classMask, GROUND } from '@pampero/core/cloud';
import { greennessLimit, newGreennessHistogram } from '@pampero/core/ground';
import { groundModel, OBJECT_CLASS, objectMargin, proposeObjects, WIDE_ROOFS } from '@pampero/core/objects';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { shared } from '../../shared-memory.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { CLASSES_KEY, replaceSetting } from '../../store/history-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { Effect } from '../../store/effects.js';
import type { Models } from '../../store/models.js';
import { classNames, readJobClasses } from '../../store/pin-repository.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { sumClasses } from '../../passes/class-sums.js';
import { formatCount } from '@pampero/core/wording';
import { overGroups, overTiles, type CloudPass } from '../../passes/cloud-pass.js';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { serverOperation, type ServerOperation } from '../server-operation.js';
import { proposedFor } from '../proposed-for.js';
import { groupNodes, withNewClasses } from '../../passes/node-groups.js';
import { frameOver } from '../../passes/raster-frames.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';

/** Classes that are settled anew; what a surveyor has said of water, roads, wires, noise and in classes of their own stays. */
const ASKED: readonly number[] = [
  0,
  OBJECT_CLASS.unclassified,
  OBJECT_CLASS.low,
  OBJECT_CLASS.medium,
  OBJECT_CLASS.high,
  OBJECT_CLASS.building,
];
const TILE_POINTS = 1_200_000;
/** Ground is held against heights by cells of about so many points. */
const POINTS_A_CELL = 6;

/** Vegetation by its height over the ground, buildings by their roofs, tile by tile with margins. */
function findObjectsIn(pool: TaskPool, parameters: OnCloud<FindObjectsParameters>, unit: LengthUnit): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { cloudId } = parameters;
    const pass: CloudPass = { pool, job, signal };
    const facts = await readCloudFacts(job.read, cloudId);
    const own = await readJobClasses(job.read);
    const named = withNames(own, parameters);
    const nameOf = classNames(named);
    const quantisation = quantisationOf(facts);
    const nodes = await listStoredNodes(job.read, cloudId);
    const spacing = averageSpacing(facts);
    const frame = frameOver(facts, Math.max(1e-3, Number((spacing * Math.sqrt(POINTS_A_CELL)).toPrecision(2))));
    const groups = groupNodes(nodes);
    const [sums] = await sumClasses(pass, facts, groups, frame, [classMask([GROUND])], (share) =>
      report(0.25 * share, 'Gathering ground'),
    );
    const model = groundModel(sums!, quantisation);
    if (!model)
      throw new PamperoError('no-ground', {
        what: `The cloud ${facts.name} has no ground points to measure heights from.`,
        fix: 'Find its ground first.',
      });
    // In coloured clouds what is green is no roof.
    const { columns, attributeNames } = facts;
    let green: { limit: number; columns: typeof columns; attributeNames: typeof attributeNames } | undefined;
    if (columns.rgb && parameters.buildings) {
      const histogram = newGreennessHistogram();
      await overGroups(pass, groups, { attributes: true }, async (read, _, transfer) => {
        const part = await pool.run('greenness', { nodes: read, columns, attributeNames }, signal, transfer);
        part.forEach((n, bin) => (histogram[bin]! += n));
      });
      const parted = greennessLimit(histogram);
      if (parted) green = { limit: parted.limit, columns, attributeNames };
    }
    const elevation = shared(model.elevation);
    const options = {
      lowFrom: parameters.lowFrom,
      mediumFrom: parameters.mediumFrom,
      highFrom: parameters.highFrom,
      highest: parameters.highest,
      roofs: parameters.buildings
        ? {
            leastHeight: parameters.leastHeight,
            leastArea: parameters.smallestRoof ** 2,
            roughness: parameters.roughness,
            radius: parameters.radius,
            spacing,
            wideBelow: { height: WIDE_ROOFS.height / metresPer(unit), width: WIDE_ROOFS.width / metresPer(unit) },
          }
        : undefined,
      wires: parameters.wires
        ? { leastHeight: parameters.wiresFrom, radius: parameters.wirePiece, leastLength: 4 * parameters.wirePiece }
        : undefined,
      small: {
        metre: 1 / metresPer(unit),
        spacing,
        poles: parameters.poles ? { leastHeight: parameters.polesFrom } : undefined,
        fences: parameters.fences ? { leastLength: parameters.fenceLength } : undefined,
        hasVehicles: parameters.vehicles,
        fenceClass: parameters.fenceClass,
        vehicleClass: parameters.vehicleClass,
      },
    };
    const takes = classMask([
      ...ASKED,
      ...(parameters.poles ? [OBJECT_CLASS.tower] : []),
      ...(parameters.fences ? [parameters.fenceClass] : []),
      ...(parameters.vehicles ? [parameters.vehicleClass] : []),
    ]);
    const margin = objectMargin(options);
    const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), margin, TILE_POINTS);
    const passOptions = {
      attributes: green !== undefined,
      onShare: (share: number) => report(0.25 + 0.7 * share, 'Classing points'),
    };
    const parts = await overTiles(pass, tiles, passOptions, (read, tile, transfer) => {
      const ground = { ...model, elevation };
      const task = { nodes: read, quantisation, tile, margin, takes, ground, options, ...(green && { green }) };
      return pool.run('objectsOfTile', task, signal, transfer);
    });
    report(0.96, 'Storing classes');
    const { changes, gained } = await withNewClasses(pool, job.read, parts.flat(), signal);
    const said = [...gained.entries()].filter(([, n]) => n > 0);
    return {
      outcome:
        said.length === 0
          ? 'Nothing changed: everything was classed as it is now.'
          : said.map(([code, n]) => `${formatCount(n)} to ${nameOf(code)}`).join(', '),
      figures: said.map(([code, n]) => ({ label: `To ${code} ${nameOf(code)}`, value: n, quantity: 'count' as const })),
      store: async (models) => ({
        effects: [
          ...(changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)]),
          ...(await nameClasses(models, parameters)),
        ],
      }),
    };
  };
}

/** The job's own classes, with names for those that fences and vehicles go to, unless the surveyor named them. */
function withNames(own: readonly JobClass[], parameters: OnCloud<FindObjectsParameters>): JobClass[] {
  const wanted: JobClass[] = [];
  if (parameters.fences) wanted.push({ code: parameters.fenceClass, name: 'Fence or wall', colour: '#8a6d3b' });
  if (parameters.vehicles) wanted.push({ code: parameters.vehicleClass, name: 'Vehicle', colour: '#5b6f9e' });
  return [...own, ...wanted.filter(({ code }) => code >= 64 && !own.some((each) => each.code === code))];
}

/** Names them in the job, unless that was done already, for another cloud of the same run. */
async function nameClasses(models: Models, parameters: OnCloud<FindObjectsParameters>): Promise<Effect[]> {
  const own = await readJobClasses(models);
  const named = withNames(own, parameters);
  return named.length === own.length ? [] : [await replaceSetting(models, CLASSES_KEY, JSON.stringify(named))];
}

export const operation: ServerOperation = {
  ...serverOperation(findObjects, (parameters, { pool, unit }) =>
    onEachCloud(parameters, (own) => findObjectsIn(pool, own, unit)),
  ),
  propose: proposedFor(proposeObjects),
};
