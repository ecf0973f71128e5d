import { QueryTypes } from 'sequelize';
import type { CloudNode } from '@pampero/contract';
import { packColumns, unpackColumns, type ColumnName, type PointBatch } from '@pampero/core/cloud';
import { extraValues, type KnownDimension } from '@pampero/core/formats/las';
import { notFound } from '../errors/job-error.js';
import type { Models, NodeRow } from './models.js';
import type { CloudFacts } from './cloud-facts.js';
import { asBuffer, readCloudFacts, readyCloud } from './cloud-repository.js';
import { countClasses } from './mark-difference.js';

/** A node as an operation wants it: where it lies and which columns to read. */
export type StoredNode = NodeRow;

/** One node on its way into the store. */
export interface NewNode {
  readonly level: number;
  readonly cell: readonly [number, number, number];
  readonly count: number;
  readonly spacing: number;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
  readonly geometry: Uint8Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
  readonly attributes: Uint8Array;
}

/** A node's bounds and bytes at the positions its cloud is shown at: those of the set, else those it came with. */
const BOUNDS = ['minX', 'minY', 'minZ', 'maxX', 'maxY', 'maxZ'];
const SHOWN_BOUNDS = BOUNDS.map((name) => `COALESCE(moved.${name}, nodes.${name}) AS ${name}`).join(', ');
const AT_SHOWN_POSITIONS =
  'JOIN clouds ON clouds.id = nodes.cloudId LEFT JOIN moved_nodes AS moved ON moved.setId = clouds.positionsId AND moved.nodeId = nodes.id';

/** Colours it was given, beside its other attributes. */
const IN_SHOWN_COLOURS =
  'LEFT JOIN coloured_nodes AS coloured ON coloured.setId = clouds.coloursId AND coloured.nodeId = nodes.id';

/** Sets so many ids aside for nodes, and gives the first; an id is used once, whether its node was ever stored or not. */
export async function reserveNodeIds(models: Models, count: number): Promise<number> {
  const database = models.nodes.sequelize!;
  const [rows] = await database.query("SELECT seq FROM sqlite_sequence WHERE name = 'nodes'");
  const last = (rows as { seq: number }[])[0]?.seq;
  await database.query(
    last === undefined
      ? "INSERT INTO sqlite_sequence (seq, name) VALUES ($1, 'nodes')"
      : "UPDATE sqlite_sequence SET seq = $1 WHERE name = 'nodes'",
    { bind: [(last ?? 0) + count] },
  );
  return (last ?? 0) + 1;
}

/** Plain statements: at thousands of nodes a model instance each is what takes the time. */
export async function insertNode(models: Models, cloudId: number, nodeId: number, node: NewNode): Promise<void> {
  const database = models.nodes.sequelize!;
  await database.query(
    'INSERT INTO nodes (id, cloudId, level, cellX, cellY, cellZ, count, spacing, minX, minY, minZ, maxX, maxY, maxZ) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)',
    {
      bind: [nodeId, cloudId, node.level, ...node.cell, node.count, node.spacing, ...node.min, ...node.max],
      type: QueryTypes.INSERT,
    },
  );
  await database.query('INSERT INTO node_geometry (nodeId, bytes) VALUES ($1, $2)', {
    bind: [nodeId, asBuffer(node.geometry)],
    type: QueryTypes.INSERT,
  });
  await database.query(
    'INSERT INTO node_class (nodeId, classification, flags, counts, revision) VALUES ($1, $2, $3, $4, 0)',
    {
      bind: [
        nodeId,
        asBuffer(node.classification),
        asBuffer(node.flags),
        JSON.stringify(countClasses(node.classification)),
      ],
      type: QueryTypes.INSERT,
    },
  );
  await database.query('INSERT INTO node_attributes (nodeId, bytes) VALUES ($1, $2)', {
    bind: [nodeId, asBuffer(node.attributes)],
    type: QueryTypes.INSERT,
  });
}

/** Nodes for the page to draw, of a cloud that is coming in those stored so far. */
export async function listNodes(models: Models, cloudId: number): Promise<CloudNode[]> {
  const isComingIn = (await models.clouds.count({ where: { id: cloudId, state: 'importing' } })) > 0;
  if (!isComingIn) await readyCloud(models, cloudId);
  const [rows] = await models.nodes.sequelize!.query(
    `SELECT nodes.*, ${SHOWN_BOUNDS}, clouds.positionsId AS positions, clouds.coloursId AS colours, node_class.revision AS revision FROM nodes ${AT_SHOWN_POSITIONS} JOIN node_class INDEXED BY node_class_facts ON node_class.nodeId = nodes.id WHERE nodes.cloudId = $cloudId`,
    { bind: { cloudId } },
  );
  return (rows as (NodeRow & { revision: number; positions: number; colours: number })[]).sort(byTree).map((n) => ({
    id: n.id,
    level: n.level,
    count: n.count,
    spacing: n.spacing,
    min: [n.minX, n.minY, n.minZ],
    max: [n.maxX, n.maxY, n.maxZ],
    revision: n.revision,
    positions: n.positions,
    colours: n.colours,
  }));
}

export async function listStoredNodes(models: Models, cloudId: number): Promise<StoredNode[]> {
  const [rows] = await models.nodes.sequelize!.query(
    `SELECT nodes.*, ${SHOWN_BOUNDS} FROM nodes ${AT_SHOWN_POSITIONS} WHERE nodes.cloudId = $cloudId`,
    { bind: { cloudId } },
  );
  return (rows as StoredNode[]).sort(byTree);
}

/**
 * Nodes by level, those of a level along a Z-order curve in plan: near ones follow each other, and what is read, sampled and
 * written in this order depends on the points alone, not on which thread was done first.
 */
function byTree(a: NodeRow, b: NodeRow): number {
  if (a.level !== b.level) return a.level - b.level;
  // The axis in which the cells differ in the higher bit decides.
  const [x, y] = [a.cellX ^ b.cellX, a.cellY ^ b.cellY];
  if ((x | y) !== 0) return Math.clz32(x) < Math.clz32(y) ? a.cellX - b.cellX : a.cellY - b.cellY;
  return a.cellZ - b.cellZ || a.id - b.id;
}

/** Points of each class in some nodes together, without reading the nodes. */
export async function countNodeClasses(models: Models, nodeIds: readonly number[]): Promise<Record<string, number>> {
  if (nodeIds.length === 0) return {};
  const [rows] = await models.nodeClass.sequelize!.query(
    'SELECT entry.key AS code, SUM(entry.value) AS points FROM json_each($ids) AS wanted JOIN node_class INDEXED BY node_class_facts ON nodeId = wanted.value, json_each(counts) AS entry GROUP BY entry.key',
    { bind: { ids: JSON.stringify(nodeIds) } },
  );
  return Object.fromEntries((rows as { code: string; points: number }[]).map(({ code, points }) => [code, points]));
}

/** Places of a node's points: those the cloud is shown at, or those of one set. */
export async function readNodeGeometry(models: Models, nodeId: number, positionsId?: number): Promise<Buffer> {
  const [rows] = await models.nodes.sequelize!.query(
    `SELECT COALESCE(moved.bytes, g.bytes) AS bytes FROM nodes JOIN clouds ON clouds.id = nodes.cloudId JOIN node_geometry AS g ON g.nodeId = nodes.id
     LEFT JOIN moved_nodes AS moved ON moved.nodeId = nodes.id AND moved.setId = COALESCE($positionsId, clouds.positionsId) WHERE nodes.id = $nodeId`,
    { bind: { nodeId, positionsId: positionsId ?? null } },
  );
  const row = (rows as { bytes: Buffer }[])[0];
  if (!row) throw notFound('node', nodeId);
  return row.bytes;
}

/** What a node holds as it lies in the store; the buffers are fresh. */
export interface NodeBytes {
  readonly nodeId: number;
  readonly classification: Buffer;
  readonly flags: Buffer;
  readonly revision: number;
  readonly geometry?: Buffer;
  readonly attributes?: Buffer;
}

/**
 * Reads some nodes with one question, in the order asked: several times faster than a question a node.
 * @throws JobError where one of them is not there
 */
export async function readNodes<Part extends 'geometry' | 'attributes' = never>(
  models: Models,
  nodeIds: readonly number[],
  ...parts: Part[]
): Promise<(NodeBytes & Required<Pick<NodeBytes, Part>>)[]> {
  if (nodeIds.length === 0) return [];
  const wanted: string[] = parts;
  const [geometry, attributes] = [wanted.includes('geometry'), wanted.includes('attributes')];
  const [rows] = await models.nodeClass.sequelize!.query(
    `SELECT c.nodeId, c.classification, c.flags, c.revision${geometry ? ', COALESCE(moved.bytes, g.bytes) AS geometry' : ''}${attributes ? ', a.bytes AS attributes, coloured.bytes AS colours' : ''}
     FROM json_each($ids) AS wanted JOIN node_class AS c ON c.nodeId = wanted.value
     ${geometry || attributes ? `JOIN nodes ON nodes.id = c.nodeId ${AT_SHOWN_POSITIONS}` : ''}
     ${geometry ? 'JOIN node_geometry AS g ON g.nodeId = c.nodeId' : ''}
     ${attributes ? `JOIN node_attributes AS a ON a.nodeId = c.nodeId ${IN_SHOWN_COLOURS}` : ''}
     ORDER BY wanted.key`,
    { bind: { ids: JSON.stringify(nodeIds) } },
  );
  const found = (rows as (NodeBytes & { colours?: Buffer | null })[]).map(({ colours, ...row }) =>
    colours ? { ...row, attributes: Buffer.concat([row.attributes!, colours]) } : row,
  ) as (NodeBytes & Required<Pick<NodeBytes, Part>>)[];
  if (found.length < nodeIds.length) {
    const there = new Set(found.map(({ nodeId }) => nodeId));
    throw notFound(
      'node',
      nodeIds.find((id) => !there.has(id))!,
    );
  }
  return found;
}

export async function readNodeClass(
  models: Models,
  nodeId: number,
): Promise<{ classification: Buffer; flags: Buffer; counts: string; revision: number }> {
  const row = (await models.nodeClass.findByPk(nodeId, { raw: true })) as unknown as {
    classification: Buffer;
    flags: Buffer;
    counts: string;
    revision: number;
  } | null;
  if (!row) throw notFound('node', nodeId);
  return row;
}

export async function readNodeAttributes(models: Models, nodeId: number): Promise<Buffer> {
  const [rows] = await models.nodes.sequelize!.query(
    `SELECT a.bytes, coloured.bytes AS colours FROM nodes JOIN clouds ON clouds.id = nodes.cloudId JOIN node_attributes AS a ON a.nodeId = nodes.id ${IN_SHOWN_COLOURS} WHERE nodes.id = $nodeId`,
    { bind: { nodeId } },
  );
  const row = (rows as { bytes: Buffer; colours: Buffer | null }[])[0];
  if (!row) throw notFound('node', nodeId);
  return row.colours ? Buffer.concat([row.bytes, row.colours]) : row.bytes;
}

/** Attribute columns of a node, one after another. */
export async function readAttributeColumns(
  models: Models,
  nodeId: number,
  names: readonly ColumnName[],
): Promise<Uint8Array> {
  const node = (await models.nodes.findByPk(nodeId, { raw: true })) as unknown as NodeRow | null;
  if (!node) throw notFound('node', nodeId);
  const facts = await readCloudFacts(models, node.cloudId);
  const columns = unpackColumns(
    await readNodeAttributes(models, nodeId),
    node.count,
    facts.attributeNames,
    facts.columns,
    names,
  );
  const values = names.map((name) => columns[name]);
  if (values.includes(undefined)) throw notFound('column', names.join(', '));
  return packColumns(values.map((column) => ({ values: column! })));
}

/** What the source says of each point of a node in an attribute of its own. */
export async function readNodeDimension(models: Models, nodeId: number, known: KnownDimension): Promise<Float32Array> {
  const node = (await models.nodes.findByPk(nodeId, { raw: true })) as unknown as NodeRow | null;
  if (!node) throw notFound('node', nodeId);
  const { [known]: dimension, columns } = await readCloudFacts(models, node.cloudId);
  if (!dimension) throw notFound('column', known);
  const extraBytes = await readAttributeColumns(models, nodeId, ['extraBytes']);
  return extraValues(dimension, extraBytes, columns.extraBytesLength, node.count);
}

/** A node's points with every column. */
export async function readNodePoints(models: Models, node: StoredNode, facts: CloudFacts): Promise<PointBatch> {
  const [geometry, marks, attributes] = await Promise.all([
    readNodeGeometry(models, node.id),
    readNodeClass(models, node.id),
    readNodeAttributes(models, node.id),
  ]);
  return {
    count: node.count,
    ...unpackColumns(geometry, node.count, ['x', 'y', 'z'], facts.columns),
    classification: marks.classification,
    flags: marks.flags,
    ...unpackColumns(attributes, node.count, facts.attributeNames, facts.columns),
  } as PointBatch;
}
