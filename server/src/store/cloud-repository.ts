import { Op, QueryTypes } from 'sequelize';
import type { Cloud, CloudReport } from '@pampero/contract';
import type { ColumnName, Quantisation } from '@pampero/core/cloud';
import { JobError, notAmong } from '../errors/job-error.js';
import type { CloudRow, Models, NodeRow } from './models.js';
import type { CloudFacts } from './cloud-facts.js';
import { storedJson } from './stored-json.js';

/** All but the report, which is long. */
const CLOUD_COLUMNS = [
  'id',
  'name',
  'state',
  'isActive',
  'pointCount',
  'facts',
  'revision',
  'classRevision',
  'positionsId',
  'coloursId',
];

export async function insertImportingCloud(models: Models, name: string): Promise<number> {
  const row = await models.clouds.create({
    name,
    state: 'importing',
    isActive: true,
    pointCount: 0,
    facts: '{}',
    revision: 0,
    classRevision: 0,
    positionsId: 0,
    coloursId: 0,
  });
  return row.get('id') as number;
}

export async function finishCloud(
  models: Models,
  cloudId: number,
  pointCount: number,
  facts: CloudFacts,
  report: CloudReport,
): Promise<void> {
  await models.clouds.update(
    { state: 'ready', pointCount, facts: JSON.stringify(facts), report: JSON.stringify(report) },
    { where: { id: cloudId } },
  );
}

/** Lets a cloud that is still coming in be seen, with what is known of it by now. */
export async function showIncoming(
  models: Models,
  cloudId: number,
  pointCount: number,
  facts: CloudFacts,
): Promise<void> {
  await models.clouds.update(
    { pointCount, facts: JSON.stringify(facts) },
    { where: { id: cloudId, state: 'importing' } },
  );
}

/** Removes a cloud's rows for good: only where no step can come back to it. */
export async function removeCloud(models: Models, cloudId: number): Promise<void> {
  const ids = (await models.nodes.findAll({ where: { cloudId }, attributes: ['id'], raw: true })).map(
    (node) => (node as unknown as NodeRow).id,
  );
  for (let at = 0; at < ids.length; at += 500) {
    const nodeId = ids.slice(at, at + 500);
    await models.nodeGeometry.destroy({ where: { nodeId } });
    await models.nodeClass.destroy({ where: { nodeId } });
    await models.nodeAttributes.destroy({ where: { nodeId } });
  }
  await models.nodes.sequelize!.query(
    'DELETE FROM moved_nodes WHERE setId IN (SELECT id FROM position_sets WHERE cloudId = $1)',
    { bind: [cloudId], type: QueryTypes.DELETE },
  );
  await models.positionSets.destroy({ where: { cloudId } });
  await models.nodes.sequelize!.query(
    'DELETE FROM coloured_nodes WHERE setId IN (SELECT id FROM colour_sets WHERE cloudId = $1)',
    { bind: [cloudId], type: QueryTypes.DELETE },
  );
  await models.colourSets.destroy({ where: { cloudId } });
  await models.nodes.destroy({ where: { cloudId } });
  await models.clouds.destroy({ where: { id: cloudId } });
}

export async function listUnfinishedClouds(models: Models): Promise<CloudRow[]> {
  return (await models.clouds.findAll({ where: { state: 'importing' }, raw: true })) as unknown as CloudRow[];
}

export async function listClouds(models: Models): Promise<Cloud[]> {
  const rows = (await models.clouds.findAll({
    where: { state: 'ready', isActive: true },
    attributes: CLOUD_COLUMNS,
    order: ['id'],
    raw: true,
  })) as unknown as CloudRow[];
  return Promise.all(rows.map((row) => asCloud(models, row)));
}

/** Clouds that are coming in and can be looked at; no operation works from them. */
export async function listIncoming(models: Models): Promise<Cloud[]> {
  const rows = (await models.clouds.findAll({
    where: { state: 'importing', facts: { [Op.ne]: '{}' } },
    attributes: CLOUD_COLUMNS,
    order: ['id'],
    raw: true,
  })) as unknown as CloudRow[];
  return Promise.all(rows.map((row) => asCloud(models, row)));
}

export async function readCloud(models: Models, cloudId: number): Promise<Cloud> {
  return asCloud(models, await readyCloud(models, cloudId));
}

export async function readCloudFacts(
  models: Models,
  cloudId: number,
): Promise<CloudFacts & { name: string; pointCount: number; revision: number; positionsId: number }> {
  const row = await readyCloud(models, cloudId);
  return {
    ...(await shownFacts(models, row)),
    name: row.name,
    pointCount: row.pointCount,
    revision: row.revision,
    positionsId: row.positionsId,
  };
}

/** The facts of all clouds in use. */
export async function listReadyCloudFacts(models: Models): Promise<{ id: number; facts: CloudFacts }[]> {
  const rows = (await models.clouds.findAll({
    where: { state: 'ready', isActive: true },
    attributes: ['id', 'facts', 'positionsId', 'coloursId'],
    order: ['id'],
    raw: true,
  })) as unknown as CloudRow[];
  return Promise.all(rows.map(async (row) => ({ id: row.id, facts: await shownFacts(models, row) })));
}

export async function readCloudReport(models: Models, cloudId: number): Promise<CloudReport> {
  await readyCloud(models, cloudId);
  const row = (await models.clouds.findByPk(cloudId, { attributes: ['report'], raw: true })) as unknown as CloudRow;
  return storedJson(row.report) as CloudReport;
}

/** A cloud's row, without what has to be counted. @throws JobError where it is none that can be worked on */
export async function readyCloud(models: Models, cloudId: number): Promise<CloudRow> {
  const row = (await models.clouds.findOne({
    where: { id: cloudId, state: 'ready', isActive: true },
    attributes: CLOUD_COLUMNS,
    raw: true,
  })) as unknown as CloudRow | null;
  if (!row) throw await whyNoCloud(models, cloudId);
  return row;
}

/** A cloud that came in and was taken back, one that is coming in, or a number that never was one: each needs another answer. */
async function whyNoCloud(models: Models, cloudId: number): Promise<JobError> {
  const row = (await models.clouds.findByPk(cloudId, {
    attributes: ['name', 'state'],
    raw: true,
  })) as unknown as Pick<CloudRow, 'name' | 'state'> | null;
  if (row?.state === 'importing')
    return new JobError('not-found', {
      what: `Cloud ${cloudId} is still coming in.`,
      fix: 'Wait for its import to end.',
    });
  if (row)
    return new JobError('not-found', {
      what: `Cloud ${cloudId}, ${row.name}, is no longer in the job.`,
      fix: 'It was undone or removed. The field book says when, and brings it back.',
    });
  return notAmong({ one: 'cloud', several: 'clouds' }, cloudId, await listClouds(models));
}

/** What a cloud says of itself, with the bounds of the positions it is shown at. */
async function shownFacts(
  models: Models,
  row: Pick<CloudRow, 'facts' | 'positionsId' | 'coloursId'>,
): Promise<CloudFacts> {
  const stored = storedJson(row.facts) as CloudFacts;
  const facts = row.coloursId === 0 ? stored : inColours(stored);
  if (row.positionsId === 0) return facts;
  const set = (await models.positionSets.findByPk(row.positionsId, { raw: true })) as unknown as { facts: string };
  return { ...facts, bounds: (storedJson(set.facts) as Pick<CloudFacts, 'bounds'>).bounds };
}

/** With the colours that it was given behind its other attributes: of two columns of a name the later one counts. */
function inColours(facts: CloudFacts): CloudFacts {
  return {
    ...facts,
    columns: { ...facts.columns, rgb: true },
    attributeNames: [...facts.attributeNames, ...COLOUR_NAMES],
  };
}
const COLOUR_NAMES = ['red', 'green', 'blue'] as const satisfies readonly ColumnName[];

async function asCloud(models: Models, row: CloudRow): Promise<Cloud> {
  const { bounds, quantisation, columns, intensityRange, source, warnings, confidence, accuracy, isStandardGpsTime } =
    await shownFacts(models, row);
  const sets = (await models.positionSets.findAll({
    where: { cloudId: row.id, state: 'ready' },
    attributes: ['id', 'name'],
    order: ['id'],
    raw: true,
  })) as unknown as { id: number; name: string }[];
  return {
    id: row.id,
    name: row.name,
    pointCount: row.pointCount,
    revision: row.revision,
    classRevision: row.classRevision,
    classCounts: await classCounts(models, row.id),
    positions: { shown: row.positionsId, sets },
    colours: row.coloursId,
    bounds,
    quantisation,
    columns,
    hasConfidence: confidence !== undefined,
    hasAccuracy: accuracy !== undefined,
    isStandardGpsTime,
    intensityRange,
    source,
    warnings,
  };
}

async function classCounts(models: Models, cloudId: number): Promise<Record<string, number>> {
  const [rows] = await models.nodeClass.sequelize!.query(
    'SELECT entry.key AS code, SUM(entry.value) AS points FROM nodes JOIN node_class INDEXED BY node_class_facts ON nodeId = nodes.id, json_each(counts) AS entry WHERE cloudId = $cloudId GROUP BY entry.key ORDER BY CAST(entry.key AS INTEGER)',
    { bind: { cloudId } },
  );
  return Object.fromEntries((rows as { code: string; points: number }[]).map(({ code, points }) => [code, points]));
}

export function asBuffer(bytes: Uint8Array): Buffer {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

export function quantisationOf(facts: CloudFacts): Quantisation {
  return facts.quantisation as Quantisation;
}
