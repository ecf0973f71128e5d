import { LENGTH_UNITS, lengthUnits, type LengthUnit } from './units.fixture.js';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { parameterFields, presetValues } from '../parameters/index.js';
import { PRODUCT_KINDS } from '../products/index.js';
import { stageIds } from '../stages.js';
import { operationById, operations, type OperationDescription } from './index.js';

const each = operations.map((operation) => [operation.id, operation as OperationDescription] as const);

/** Values for what has no default: numbers of things that are there, names, places. */
const NEEDED: Readonly<Record<string, unknown>> = {
  clouds: [1],
  selection: [{ how: 'add', shape: { kind: 'all' }, visible: { hiddenClasses: [], withWithheld: false } }],
  name: 'A name',
  classCode: 2,
  cloud: 1,
  picture: 1,
  photographs: 1,
  pictures: [1, 2],
  focalLength: 8,
  pixelSize: 12,
  address: 'https://maps.example.org/parcels',
  mask: 1,
  trajectory: 1,
  adjustment: 1,
  surfaceId: 1,
  surfaceIds: [1],
  designIds: [2],
  spotsId: 1,
  proposalsId: 1,
  along: 1,
  guide: [[0, 0], [10, 0]], // prettier-ignore
  fromId: 1,
  cloudId: 2,
  changes: [{ index: 0, code: 'EDGE' }],
  gridId: 1,
  otherGridId: 2,
  level: 30,
  line: [[0, 0], [10, 0]], // prettier-ignore
  edits: [],
  classes: [],
  targets: [{ number: 'T1', at: [0, 0, 0] }],
  strips: [{ name: 'A', from: 0, to: 10 }],
  codes: [{ code: 'A', meaning: '', role: 'plain', colour: '#000000', style: 'solid', layer: 'A' }],
};

describe.each(each)('%s', (id, operation) => {
  test('is found by its id, has a stage, and says in words what it does', () => {
    expect(operationById(id)).toBe(operation);
    expect(stageIds).toContain(operation.stage);
    expect(id).toMatch(/^[a-z]+(-[a-z]+)*$/);
    // Verb first, as the button says it; one sentence that ends.
    expect(operation.title).toMatch(/^[A-Z][a-z]+/);
    expect(operation.does).toMatch(/^[A-Z].*\.$/);
  });

  test('every field has a label and help in plain words', () => {
    for (const field of parameterFields(operation, 'metre')) {
      expect(field.label, field.name).toMatch(/^[A-Z]/);
      expect(field.label, field.name).not.toBe(field.name);
      expect(field.help, field.name).toMatch(/\.$/);
      for (const choice of field.choices ?? []) expect(choice.label, field.name).not.toBe('');
      if (field.refersTo && !['cloud', 'product'].includes(field.refersTo))
        expect(PRODUCT_KINDS.map((kind) => kind.id as string)).toContain(field.refersTo);
    }
    const labels = parameterFields(operation, 'metre').map(({ label }) => label);
    expect(new Set(labels).size).toBe(labels.length);
  });

  test('a field that applies only sometimes names another field, and a value that it can have', () => {
    const fields = parameterFields(operation, 'metre');
    for (const { appliesTo } of fields) {
      if (!appliesTo) continue;
      const other = fields.find(({ name }) => name === appliesTo.name);
      expect(other).toBeDefined();
      for (const value of [appliesTo.is].flat())
        if (other!.choices) expect(other!.choices.map((choice) => choice.value)).toContain(value);
    }
  });

  test.each(LENGTH_UNITS)('in %s the defaults hold, and are as large on the land as in metres', (unit: LengthUnit) => {
    const inMetres = new Map(parameterFields(operation, 'metre').map((field) => [field.name, field]));
    for (const field of parameterFields(operation, unit)) {
      const { quantity, default: value, minimum = -Infinity, maximum = Infinity } = field;
      if (typeof value !== 'number') continue;
      expect(value, field.name).toBeGreaterThanOrEqual(minimum);
      expect(value, field.name).toBeLessThanOrEqual(maximum);
      const metres = inMetres.get(field.name)!.default as number;
      // Defaults are rounded to what one would type: two figures.
      if (id === 'draw-contours' && (field.name === 'interval' || field.name === 'indexEvery')) {
        // Maps in feet have contours of whole feet, and heavier ones every five.
        const isMetric = unit === 'metre';
        expect(value).toBe(field.name === 'interval' ? (isMetric ? 0.25 : 1) : isMetric ? 4 : 5);
      } else if (quantity === 'length')
        expect(Math.abs(value * lengthUnits[unit].metres - metres), field.name).toBeLessThanOrEqual(
          0.05 * Math.abs(metres),
        );
      else expect(value, field.name).toBe(metres);
    }
  });

  test('what is left out falls back to the defaults: with what is needed it can be sent', () => {
    const shape = operation.parameters('metre').shape as Record<string, z.ZodType>;
    const given = Object.fromEntries(
      Object.entries(shape).flatMap(([name, schema]) =>
        !schema.safeParse(undefined).success && name in NEEDED ? [[name, NEEDED[name]]] : [],
      ),
    );
    const parsed = operation.parameters('metre').safeParse(given);
    const missing = parsed.success ? [] : parsed.error.issues.filter(({ code }) => code === 'invalid_type');
    expect(missing.map(({ path, message }) => `${path.join('.')}: ${message}`)).toEqual([]);
  });

  test('what is missing or wrong is told in plain words, none of them the library’s', () => {
    const shape = operation.parameters('metre').shape as Record<string, z.ZodType>;
    const wrong = [undefined, null, {}, 'x', -1e9, 1e9, 1.5, [], ['x']];
    for (const value of wrong)
      for (const name of Object.keys(shape)) {
        const parsed = operation.parameters('metre').safeParse({ [name]: value });
        for (const { message } of parsed.error?.issues ?? [])
          expect(message, `${name} = ${JSON.stringify(value)}`).not.toMatch(
            /Invalid|expected|Too (small|big)|Unrecognized/,
          );
      }
  });

  test('a name that is none of its parameters is refused, not passed over', () => {
    const parsed = operation.parameters('metre').safeParse({ toleranse: 1 });
    expect(parsed.success).toBe(false);
    expect(JSON.stringify(parsed.error!.issues)).toContain('toleranse');
  });

  test('settings for common cases hold in every unit', () => {
    for (const preset of operation.presets ?? [])
      for (const unit of LENGTH_UNITS) {
        const values = presetValues(operation, preset, unit);
        const parsed = operation.parameters(unit).safeParse({ clouds: [1], ...values });
        expect(parsed.error?.issues ?? [], `${preset.label} in ${unit}`).toEqual([]);
        for (const name of Object.keys(values)) expect(parsed.data).toHaveProperty(name);
      }
  });

  test('lengths take a unit of their own, wherever they stand', () => {
    for (const field of parameterFields(operation, 'us-survey-foot')) {
      if (field.quantity !== 'length' || typeof field.default !== 'number' || field.default === 0) continue;
      const schema = (operation.parameters('us-survey-foot').shape as Record<string, z.ZodType>)[field.name]!;
      const metres = field.default * lengthUnits['us-survey-foot'].metres;
      expect(schema.parse(`${metres} m`), field.name).toBeCloseTo(field.default, 6);
      expect(schema.safeParse('a bit').success, field.name).toBe(false);
    }
  });
});

describe('operations together', () => {
  test('no two share an id or a title', () => {
    for (const pick of ['id', 'title'] as const)
      expect(new Set(operations.map((operation) => operation[pick])).size).toBe(operations.length);
  });

  test('they stand in the order of the stages', () => {
    const stages = operations.map(({ stage }) => stageIds.indexOf(stage));
    expect(stages).toEqual([...stages].sort((a, b) => a - b));
  });
});
