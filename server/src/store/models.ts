import type { ProductKindId, SheetRun } from '@pampero/contract';
import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';

/** Rows of a job file as plain objects. Blobs are Buffers. */
export interface CloudRow {
  id: number;
  name: string;
  state: 'importing' | 'ready';
  isActive: boolean;
  pointCount: number;
  /** Everything else a cloud says of itself: see `CloudFacts`. */
  facts: string;
  /** See `CloudReport`. */
  report: string;
  /** The field book's entry that last changed classes or flags. */
  revision: number;
  /** ... that last changed classes or what is withheld: key points and the like leave it as it is. */
  classRevision: number;
  /** The set of positions it is shown at; 0 for those it came with. */
  positionsId: number;
  /** The set of colours it is shown in; 0 for those it came with. */
  coloursId: number;
}
export interface ColourSetRow {
  id: number;
  cloudId: number;
  historyId: number;
  state: 'colouring' | 'ready';
}
export interface PositionSetRow {
  id: number;
  cloudId: number;
  historyId: number;
  state: 'moving' | 'ready';
  name: string;
  /** See `PositionSetFacts`. */
  facts: string;
}
export interface NodeRow {
  id: number;
  cloudId: number;
  level: number;
  cellX: number;
  cellY: number;
  cellZ: number;
  count: number;
  spacing: number;
  minX: number;
  minY: number;
  minZ: number;
  maxX: number;
  maxY: number;
  maxZ: number;
}
export interface NodeGeometryRow {
  nodeId: number;
  bytes: Buffer;
}
export interface NodeClassRow {
  nodeId: number;
  classification: Buffer;
  flags: Buffer;
  /** Points of each class, JSON. */
  counts: string;
  revision: number;
}
export interface NodeAttributesRow {
  nodeId: number;
  bytes: Buffer;
}
export interface ProductRow {
  id: number;
  kind: ProductKindId;
  name: string;
  isActive: boolean;
  /** The id of the first of those that took each other's place, edited or built again; one of them is active. */
  seriesId: number;
  /** What it was made from, as it was then: `ProductInput[]` as JSON. */
  inputs: string;
  madeAt: string;
  operation: string;
  parameters: string;
  facts: string;
}
export interface ProductBlobRow {
  productId: number;
  part: string;
  bytes: Buffer;
}
export interface HistoryRow {
  id: number;
  operation: string;
  stage: string;
  title: string;
  parameters: string;
  state: string;
  outcome: string;
  figures: string;
  effects: string;
  startedAt: string;
  durationMs: number;
  /** The run of a sheet that it belongs to, and which of its steps it was. */
  sheetRunId: number | null;
  sheetStep: string | null;
}
export interface SheetRunRow {
  id: number;
  /** `RunSheet` as JSON, as it was when the run began. */
  sheet: string;
  /** `GivenPlaces` as JSON. */
  places: string;
  state: SheetRun['state'];
  because: string | null;
  /** What became of gates, by the key of their step. */
  gates: string;
  startedAt: string;
  endedAt: string | null;
}
export interface HistoryMarksRow {
  historyId: number;
  nodeId: number;
  /** What differs on the two sides of the step, bit for bit: classes, then flags, deflated. */
  difference: Buffer;
  /** The node's revision on the other side. */
  otherRevision: number;
}
export interface PinRow {
  id: number;
  kind: 'note' | 'measure' | 'view' | 'selection' | 'accepted' | 'ramp';
  name: string;
  body: string;
}
export interface ControlPointRow {
  id: number;
  /** The field book's entry that brought it. */
  historyId: number;
  isActive: boolean;
  role: 'control' | 'check';
  number: string;
  northing: number;
  easting: number;
  elevation: number;
  code: string;
}
export interface MetaRow {
  key: string;
  value: string;
}

type Of<Row extends object> = ModelStatic<Model<Row, Partial<Row>>>;

export interface Models {
  readonly meta: Of<MetaRow>;
  readonly clouds: Of<CloudRow>;
  readonly nodes: Of<NodeRow>;
  readonly nodeGeometry: Of<NodeGeometryRow>;
  readonly nodeClass: Of<NodeClassRow>;
  readonly nodeAttributes: Of<NodeAttributesRow>;
  readonly positionSets: Of<PositionSetRow>;
  readonly colourSets: Of<ColourSetRow>;
  readonly products: Of<ProductRow>;
  readonly productBlobs: Of<ProductBlobRow>;
  readonly history: Of<HistoryRow>;
  readonly historyMarks: Of<HistoryMarksRow>;
  readonly sheetRuns: Of<SheetRunRow>;
  readonly pins: Of<PinRow>;
  readonly controlPoints: Of<ControlPointRow>;
}

const { INTEGER, DOUBLE, TEXT, BLOB, BOOLEAN } = DataTypes;
/** A fresh object each time: Sequelize writes into the attributes it is given. */
const key = () => ({ type: INTEGER, primaryKey: true });

/** The models over one connection; the tables themselves come from the migrations. */
export function defineModels(sequelize: Sequelize): Models {
  const define = <Row extends object>(table: string, columns: Parameters<Sequelize['define']>[1]): Of<Row> =>
    sequelize.define(table, columns, { tableName: table, timestamps: false }) as unknown as Of<Row>;
  return {
    meta: define('meta', { key: { type: TEXT, primaryKey: true }, value: TEXT }),
    clouds: define('clouds', {
      id: { ...key(), autoIncrement: true },
      name: TEXT,
      state: TEXT,
      isActive: BOOLEAN,
      pointCount: INTEGER,
      facts: TEXT,
      report: TEXT,
      revision: INTEGER,
      classRevision: INTEGER,
      positionsId: INTEGER,
      coloursId: INTEGER,
    }),
    nodes: define('nodes', {
      id: { ...key(), autoIncrement: true },
      ...Object.fromEntries(
        ['cloudId', 'level', 'cellX', 'cellY', 'cellZ', 'count', 'minX', 'minY', 'minZ', 'maxX', 'maxY', 'maxZ'].map(
          (name) => [name, INTEGER],
        ),
      ),
      spacing: DOUBLE,
    }),
    nodeGeometry: define('node_geometry', { nodeId: key(), bytes: BLOB }),
    nodeClass: define('node_class', {
      nodeId: key(),
      classification: BLOB,
      flags: BLOB,
      counts: TEXT,
      revision: INTEGER,
    }),
    nodeAttributes: define('node_attributes', { nodeId: key(), bytes: BLOB }),
    positionSets: define('position_sets', {
      id: { ...key(), autoIncrement: true },
      cloudId: INTEGER,
      historyId: INTEGER,
      ...Object.fromEntries(['state', 'name', 'facts'].map((name) => [name, TEXT])),
    }),
    colourSets: define('colour_sets', {
      id: { ...key(), autoIncrement: true },
      cloudId: INTEGER,
      historyId: INTEGER,
      state: TEXT,
    }),
    products: define('products', {
      id: { ...key(), autoIncrement: true },
      kind: TEXT,
      name: TEXT,
      isActive: BOOLEAN,
      seriesId: INTEGER,
      inputs: TEXT,
      madeAt: TEXT,
      operation: TEXT,
      parameters: TEXT,
      facts: TEXT,
    }),
    productBlobs: define('product_blobs', { productId: key(), part: { type: TEXT, primaryKey: true }, bytes: BLOB }),
    history: define('history', {
      id: { ...key(), autoIncrement: true },
      ...Object.fromEntries(
        [
          'operation',
          'stage',
          'title',
          'parameters',
          'state',
          'outcome',
          'figures',
          'effects',
          'startedAt',
          'sheetStep',
        ].map((name) => [name, TEXT]),
      ),
      durationMs: DOUBLE,
      sheetRunId: INTEGER,
    }),
    controlPoints: define('control_points', {
      id: { ...key(), autoIncrement: true },
      historyId: INTEGER,
      isActive: BOOLEAN,
      ...Object.fromEntries(['role', 'number', 'code'].map((name) => [name, TEXT])),
      ...Object.fromEntries(['northing', 'easting', 'elevation'].map((name) => [name, DOUBLE])),
    }),
    historyMarks: define('history_marks', {
      historyId: key(),
      nodeId: { type: INTEGER, primaryKey: true },
      difference: BLOB,
      otherRevision: INTEGER,
    }),
    sheetRuns: define('sheet_runs', {
      id: { ...key(), autoIncrement: true },
      ...Object.fromEntries(
        ['sheet', 'places', 'state', 'because', 'gates', 'startedAt', 'endedAt'].map((name) => [name, TEXT]),
      ),
    }),
    pins: define('pins', { id: { ...key(), autoIncrement: true }, kind: TEXT, name: TEXT, body: TEXT }),
  };
}
