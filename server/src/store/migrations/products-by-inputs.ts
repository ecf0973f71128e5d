import { QueryTypes, type Sequelize } from 'sequelize';

/*
 * Step 005. Until here a product knew one input, and surfaces and contours alone went stale. From here every product keeps all
 * that it was made from, products that took each other's place are a series, and parameters have their present names. What is
 * said here of the operations is how they were then; it does not follow what they become.
 */

type Json = Record<string, unknown>;
interface OldProduct {
  id: number;
  kind: string;
  inputId: number;
  inputRevision: number;
  operation: string;
  parameters: string;
  facts: string;
}
interface OldStep {
  id: number;
  operation: string;
  parameters: string;
  effects: string;
  state: string;
}
interface OldEffect {
  kind: string;
  id?: number;
  replaces?: number;
  cloudId?: number;
  otherClassRevision?: number;
}
interface Input {
  kind: 'cloud' | 'product' | 'control';
  id: number;
  revision: string;
}

const NAMES: Readonly<Record<string, string>> = {
  longestSide: 'maximumEdge',
  smallestAngle: 'minimumAngle',
  lineStep: 'vertexSpacing',
  dashedFrom: 'dashFrom',
  textHeight: 'labelHeight',
  figuresApart: 'labelSpacing',
  shortestLength: 'minimumLength',
  secondLook: 'refine',
  doubtGreen: 'trustGreenLess',
  leastConfidence: 'minimumConfidence',
  lowPointDrop: 'lowPointDepth',
};
const OWN_NAMES: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  'draw-contours': { base: 'baseElevation' },
  'make-grid': { reach: 'fillDistance', within: 'insideMethod', seam: 'blendWidth', laid: 'burnLines' },
};
/** Operations whose parameter of the cloud became one of clouds. */
const OF_CLOUDS = new Set([
  'find-ground',
  'find-objects',
  'find-water',
  'find-bridges',
  'carry-classes',
  'find-low',
  'find-isolated',
  'find-outliers',
  'find-floating',
  'find-unreliable',
  'thin-cloud',
  'number-points',
  'build-surface',
  'make-grid',
  'draw-profile',
]);

function renamed(operation: string, given: Json): Json {
  const own = OWN_NAMES[operation] ?? {};
  const out: Json = {};
  for (const [name, value] of Object.entries(given)) out[own[name] ?? NAMES[name] ?? name] = value;
  if (OF_CLOUDS.has(operation) && typeof out['cloudId'] === 'number') {
    out['clouds'] = [out['cloudId']];
    delete out['cloudId'];
  }
  if (operation === 'draw-contours') {
    out['on'] = out['gridId'] === undefined ? 'surface' : 'grid';
    out['labelReading'] = 'uphill';
  }
  if (operation === 'measure-volume' && out['against'] === 'rim') out['against'] = 'outline';
  return out;
}

const ids = (value: unknown): number[] =>
  (Array.isArray(value) ? value : [value]).filter((id): id is number => typeof id === 'number');

/** Numbers of clouds and products in parameters as they are named from here on. */
function sourcesOf(operation: string, p: Json): { clouds: number[]; products: number[]; control: boolean } {
  const none = { clouds: [], products: [], control: false };
  switch (operation) {
    case 'build-surface':
      return { ...none, clouds: ids(p['clouds']), products: ids(p['lines']) };
    case 'draw-contours':
      return { ...none, products: ids(p['on'] === 'grid' ? p['gridId'] : p['surfaceId']) };
    case 'make-grid':
      if (p['method'] === 'tin') return { ...none, products: ids(p['surfaceId']) };
      if (p['method'] === 'difference') return { ...none, products: [...ids(p['surfaceId']), ...ids(p['otherId'])] };
      if (p['method'] === 'grid-difference')
        return { ...none, products: [...ids(p['gridId']), ...ids(p['otherGridId'])] };
      return { ...none, clouds: ids(p['clouds']), products: [...ids(p['outlines']), ...ids(p['burnLines'])] };
    case 'measure-volume': {
      const other = p['against'] === 'surface' ? ids(p['otherId']) : [];
      return { ...none, products: [...ids(p['surfaceId']), ...other, ...ids(p['outline'])] };
    }
    case 'state-accuracy':
      return { ...none, products: ids(p['surfaceId']), control: true };
    case 'draw-profile':
      return { ...none, clouds: ids(p['clouds']), products: ids(p['surfaceIds']) };
    case 'number-points':
    case 'thin-cloud':
      return { ...none, clouds: ids(p['clouds']) };
    default:
      return none;
  }
}

function newFacts(kind: string, facts: Json): Json {
  const { otherInputs: _, replaced: __, crossings: ___, ...rest } = facts;
  if (kind === 'surface') {
    const { facts: tin, pointsBesideLines, ...more } = rest as Json & { facts: Json };
    const { longestSide, ...figures } = tin;
    return {
      ...figures,
      longestEdge: longestSide,
      pointsThinned: 0,
      duplicatesDropped: 0,
      facetsLeftOut: 0,
      ...more,
      ...(pointsBesideLines !== undefined && { pointsNearLines: pointsBesideLines }),
    };
  }
  if (kind === 'lines') {
    const { corners, ...more } = rest;
    return { ...more, vertices: corners };
  }
  if (kind === 'volume') {
    const { rimBeside, ...more } = rest;
    return { ...more, outlineOff: rimBeside ?? 0 };
  }
  if (kind === 'grid') return { isCount: false, isDifference: false, ...rest };
  return rest;
}

export async function productsByInputs(database: Sequelize): Promise<void> {
  const run = (sql: string): Promise<unknown> => database.query(sql);
  await run('ALTER TABLE clouds ADD COLUMN classRevision INTEGER NOT NULL DEFAULT 0');
  await run("ALTER TABLE products ADD COLUMN inputs TEXT NOT NULL DEFAULT '[]'");
  await run('ALTER TABLE products ADD COLUMN seriesId INTEGER NOT NULL DEFAULT 0');

  const steps = await database.query<OldStep>('SELECT id, operation, parameters, effects, state FROM history', {
    type: QueryTypes.SELECT,
  });
  const before = new Map<number, number>();
  const madeBy = new Map<number, number>();
  /** Steps that changed classes or what is withheld; a thinning that flagged key points did neither. */
  const classSteps: { step: number; cloudId: number; isDone: boolean }[] = [];
  for (const step of steps) {
    const flagsOnly =
      step.operation === 'thin-cloud' && (JSON.parse(step.parameters) as Json)['outcome'] === 'key-point';
    for (const effect of JSON.parse(step.effects) as OldEffect[]) {
      if (effect.kind === 'product' && effect.id !== undefined) {
        madeBy.set(effect.id, step.id);
        if (effect.replaces !== undefined) before.set(effect.id, effect.replaces);
      }
      if (effect.kind === 'classes' && effect.cloudId !== undefined && !flagsOnly)
        classSteps.push({ step: step.id, cloudId: effect.cloudId, isDone: step.state === 'done' });
    }
  }
  const seriesOf = (id: number): number => {
    let first = id;
    for (let hops = 0; before.has(first) && hops < 100_000; hops++) first = before.get(first)!;
    return first;
  };
  /** The last step up to another that changed a cloud's classes: their revision after it. */
  const classesAfter = (cloudId: number, step: number): number =>
    classSteps.reduce(
      (last, s) => (s.cloudId === cloudId && s.isDone && s.step <= step ? Math.max(last, s.step) : last),
      0,
    );
  for (const { id } of await database.query<{ id: number }>('SELECT id FROM clouds', { type: QueryTypes.SELECT }))
    await database.query('UPDATE clouds SET classRevision = $1 WHERE id = $2', {
      bind: [classesAfter(id, Infinity), id],
    });
  /** ... and to flags: every step that touched the cloud's points. */
  const flagsAfter = (cloudId: number, step: number): number =>
    steps.reduce(
      (last, { id, effects, state }) =>
        id <= step &&
        state === 'done' &&
        (JSON.parse(effects) as OldEffect[]).some((e) => e.kind === 'classes' && e.cloudId === cloudId)
          ? Math.max(last, id)
          : last,
      0,
    );
  const control = await database.query<{ historyId: number }>(
    'SELECT DISTINCT historyId FROM control_points WHERE isActive = 1 ORDER BY historyId',
    { type: QueryTypes.SELECT },
  );

  const products = await database.query<OldProduct>('SELECT * FROM products', { type: QueryTypes.SELECT });
  for (const row of products) {
    const isEdited = row.operation === 'edit-points';
    const operation = isEdited ? 'number-points' : row.operation;
    const parameters = renamed(operation, JSON.parse(row.parameters) as Json);
    const facts = newFacts(row.kind, JSON.parse(row.facts) as Json);
    const sources = sourcesOf(operation, parameters);
    const readsFlags = operation === 'number-points' && parameters['which'] !== 'all';
    const inputs: Input[] = [
      ...sources.clouds.map((id): Input => {
        const made = row.kind === 'surface' ? row.inputRevision : (madeBy.get(row.id) ?? Infinity);
        return {
          kind: 'cloud',
          id,
          revision: readsFlags ? `flags ${flagsAfter(id, made)}` : `classes ${classesAfter(id, made)}`,
        };
      }),
      ...sources.products.map((id): Input => ({ kind: 'product', id: seriesOf(id), revision: String(id) })),
      ...(sources.control
        ? [{ kind: 'control' as const, id: 0, revision: control.map(({ historyId }) => historyId).join(' ') }]
        : []),
    ];
    await database.query(
      'UPDATE products SET operation = $1, parameters = $2, facts = $3, inputs = $4, seriesId = $5 WHERE id = $6',
      {
        bind: [
          operation,
          JSON.stringify(parameters),
          JSON.stringify(isEdited ? { ...facts, isEdited: true } : facts),
          JSON.stringify(inputs),
          seriesOf(row.id),
          row.id,
        ],
      },
    );
  }
  for (const { id, operation, parameters, effects, state } of steps) {
    const given = JSON.parse(parameters) as Json;
    // A step keeps the other side of what it changed: of classes, their revision before it, or after it once it is undone.
    const crossed = (JSON.parse(effects) as OldEffect[]).map((effect) => {
      if (effect.kind !== 'classes' || effect.cloudId === undefined) return effect;
      const { cloudId } = effect;
      const before = classesAfter(cloudId, id - 1);
      const isOfClasses = classSteps.some((s) => s.step === id && s.cloudId === cloudId);
      return { ...effect, otherClassRevision: state === 'undone' && isOfClasses ? id : before };
    });
    await database.query('UPDATE history SET operation = $1, parameters = $2, effects = $3 WHERE id = $4', {
      bind: [
        operation === 'carry-classes' ? 'transfer-classes' : operation,
        JSON.stringify(renamed(operation, given)),
        JSON.stringify(crossed),
        id,
      ],
    });
  }
  await run('ALTER TABLE products DROP COLUMN inputId');
  await run('ALTER TABLE products DROP COLUMN inputRevision');
}
