import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { operations } from '../operations/index.js';
import { parameterFields } from '../parameters/index.js';
import { readRunSheet, ruleOf, rulesIn, runSheetSchema, sheetFromSteps, type RunSheetInput } from './index.js';

const head = { format: 'pampero-run-sheet', version: 1, name: 'Sheet' } as const;
const importStep = { kind: 'work', key: 'import', operation: 'import-cloud', file: 'files' } as const;
const files = { key: 'files', label: 'Files', kind: 'files' } as const;
const sheetOf = (steps: unknown[], more: object = {}): unknown => ({
  ...head,
  places: [files],
  steps: [importStep, ...steps],
  ...more,
});
const faultsOf = (given: unknown): string[] => {
  const read = readRunSheet(given);
  return 'faults' in read ? read.faults.map(({ at, message }) => `${at}: ${message}`) : [];
};

describe('a run sheet as it is exchanged', () => {
  test('is described by a published schema (JSON Schema 2020-12)', async () => {
    const schema = z.toJSONSchema(runSheetSchema, { io: 'input', unrepresentable: 'any' });
    const path = fileURLToPath(new URL('../../../docs/run-sheet.schema.json', import.meta.url));
    await expect(`${JSON.stringify(schema, undefined, 2)}\n`).toMatchFileSnapshot(path);
  });

  test('takes every operation that needs no drawing, with rules wherever it points at something', () => {
    for (const operation of operations) {
      const parameters: Record<string, unknown> = {};
      for (const { name, refersTo, type, isOptional } of parameterFields(operation, 'metre'))
        if (refersTo === 'cloud' && !isOptional)
          parameters[name] = type === 'array' ? [{ from: 'import' }] : { from: 'import' };
      const takesFile = (operation as { takesFile?: boolean }).takesFile;
      const step = {
        kind: 'work',
        key: 'step',
        operation: operation.id,
        parameters,
        ...(takesFile && { file: 'files' }),
      };
      // Whatever is wrong is of a parameter that is asked for and not given, never of the rules.
      for (const fault of faultsOf(sheetOf([step]))) expect(fault, operation.id).toMatch(/^steps\[1\]\.parameters/);
    }
  });

  test.each<[string, unknown, RegExp]>([
    ['a rule that is none of length', { steepestRise: { spacings: 2 } }, /is no length/],
    ['a step that makes no such thing', { cell: { from: 'import' } }, /is no cloud and no product/],
    ['a place for files as a value', { cell: { place: 'files' } }, /holds files, not a value/],
    ['every of another kind', { clouds: { every: 'surface' } }, /not of the kind/],
    ['a value of the wrong kind', { method: 'magic' }, /parameters\.method/],
  ])('%s is named', (_what, parameters, expected) => {
    const step = {
      kind: 'work',
      key: 'ground',
      operation: 'find-ground',
      parameters: { clouds: [{ from: 'import' }], ...(parameters as object) },
    };
    expect(faultsOf(sheetOf([step])).join('\n')).toMatch(expected);
  });

  test('a step that is turned off lends nothing, and a gate looks at what is done', () => {
    const off = {
      kind: 'work',
      key: 'surface',
      operation: 'build-surface',
      isOff: true,
      parameters: { clouds: [{ from: 'import' }] },
    };
    const contours = {
      kind: 'work',
      key: 'contours',
      operation: 'draw-contours',
      parameters: { surfaceId: { from: 'surface' } },
    };
    const gate = {
      kind: 'gate',
      key: 'gate',
      gate: { rule: 'figure', of: 'surface', figure: 'Triangles', must: 'at-least', limit: 1 },
    };
    expect(faultsOf(sheetOf([off, contours])).join()).toContain('is turned off');
    expect(faultsOf(sheetOf([off, gate])).join()).toContain('is turned off');
    expect(faultsOf(sheetOf([{ ...off, isOff: false }, contours, gate]))).toEqual([]);
  });

  test('what is no sheet is refused without a crash', () => {
    for (const given of [
      null,
      5,
      [],
      {},
      'x',
      { format: 'pampero-run-sheet' },
      { ...head, steps: 'none' },
      { ...head, steps: [null] },
    ])
      expect(faultsOf(given).length, JSON.stringify(given)).toBeGreaterThan(0);
  });

  test('rules are told from values', () => {
    expect(ruleOf({ from: 'a' })).toEqual({ from: 'a' });
    expect(ruleOf({ from: 'a', to: 'b' })).toBeUndefined();
    expect(ruleOf('from a')).toBeUndefined();
    expect(rulesIn([1, { from: 'a' }, { spacings: 2 }])).toHaveLength(2);
  });
});

describe('a sheet made of steps that were done', () => {
  const done = [
    { id: 1, operation: 'import-cloud', parameters: { fileName: 'a.las' }, made: [{ kind: 'cloud' as const, id: 4 }] },
    { id: 2, operation: 'set-class', parameters: { selection: [], classCode: 2 }, made: [] },
    {
      id: 3,
      operation: 'build-surface',
      parameters: { clouds: [4], thinCell: 1.5 },
      made: [{ kind: 'product' as const, id: 9 }],
    },
    {
      id: 5,
      operation: 'draw-contours',
      parameters: { on: 'surface', surfaceId: 11, interval: 0.5 },
      made: [{ kind: 'product' as const, id: 12 }],
    },
  ];
  // The surface was edited since: 11 stands in the place of 9.
  const { sheet, leftOut } = sheetFromSteps('Made', done, 'us-survey-foot', (id) => (id === 11 ? 9 : id));

  test('keeps the order, leaves out what was done by hand, and follows what was edited', () => {
    expect(sheet.steps.map(({ key }) => key)).toEqual(['import-cloud', 'build-surface', 'draw-contours']);
    expect(leftOut).toEqual([{ id: 2, because: expect.stringContaining('by hand') as string }]);
    const [, surface, contours] = sheet.steps as Extract<RunSheetInput['steps'][number], { kind: 'work' }>[];
    expect(surface!.parameters).toMatchObject({ clouds: [{ from: 'import-cloud' }], thinCell: '1.5 ftUS' });
    expect(contours!.parameters).toMatchObject({ surfaceId: { from: 'build-surface' }, interval: '0.5 ftUS' });
    expect(faultsOf(sheet)).toEqual([]);
  });

  test('asks for clouds that none of the steps brought', () => {
    const { sheet: later } = sheetFromSteps('Later', done.slice(2, 3), 'metre');
    expect(later.places).toEqual([expect.objectContaining({ key: 'clouds', kind: 'clouds' })]);
    expect(faultsOf(later)).toEqual([]);
  });
});
