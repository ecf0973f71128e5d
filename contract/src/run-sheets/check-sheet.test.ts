import { describe, expect, test } from 'vitest';
import { pathText, readRunSheet, sheetFromSteps } from './index.js';

const files = { key: 'files', label: 'Files', kind: 'files' } as const;
const clouds = { key: 'clouds', label: 'Clouds', kind: 'clouds' } as const;
const limit = { key: 'limit', label: 'Limit', kind: 'value' } as const;
const work = (key: string, operation: string, parameters: object = {}, more: object = {}) => ({ kind: 'work', key, operation, parameters, ...more }); // prettier-ignore
const importing = work('in', 'import-cloud', {}, { file: 'files' });
const ground = work('ground', 'find-ground', { clouds: [{ from: 'in' }] });
const surface = work('surface', 'build-surface', { clouds: [{ from: 'in' }] });

/** What is wrong with a sheet, "where: what". */
function faults(steps: unknown[], more: object = {}): string[] {
  const read = readRunSheet({ format: 'pampero-run-sheet', version: 1, name: 'S', places: [files, clouds, limit], steps, ...more }); // prettier-ignore
  return 'faults' in read ? read.faults.map(({ at, message }) => `${at}: ${message}`) : [];
}

describe('a sheet holds together', () => {
  test('one that does has nothing to be said of', () => {
    expect(faults([importing, ground, surface], { outputs: [{ of: 'surface', format: 'landxml' }, { of: 'in', format: 'laz' }] })).toEqual([]); // prettier-ignore
  });

  test.each<[string, unknown[], object, string]>([
    ['a key that two steps have', [importing, work('in', 'find-ground', { clouds: [{ from: 'in' }] })], {}, 'steps[1].key: “in” is taken by another step or place.'],
    ['a step named as a place', [{ ...importing, key: 'files' }], {}, 'steps[0].key: “files” is taken by another step or place.'],
    ['two places of one key', [importing], { places: [files, files] }, 'places[1].key: There are two places “files”.'],
    ['an operation nobody knows', [work('x', 'make-coffee')], {}, 'steps[0].operation: There is no operation “make-coffee” in this version.'],
    ['an import without a place for files', [work('in', 'import-cloud')], {}, 'steps[0].file: Import cloud reads a file: name a place for files.'],
    ['an import from a place for clouds', [work('in', 'import-cloud', {}, { file: 'clouds' })], {}, 'steps[0].file: Import cloud reads a file: name a place for files.'],
    ['a file where none is read', [importing, { ...ground, file: 'files' }], {}, 'steps[1].file: Find ground reads no file.'],
    ['for each of something that is not there', [importing, { ...ground, each: 'nobody' }], {}, 'steps[1].each: There is no place for clouds and no earlier step “nobody”.'],
    ['a step that comes later', [{ ...ground, parameters: { clouds: [{ from: 'surface' }] } }, importing, surface], {}, 'steps[0].parameters.clouds: There is no earlier step “surface”.'],
    ['a place that is not there', [importing, work('ground', 'find-ground', { clouds: [{ from: 'in' }], tolerance: { place: 'nowhere' } })], {}, 'steps[1].parameters.tolerance: There is no place “nowhere”.'],
    ['clouds for a length', [importing, work('ground', 'find-ground', { clouds: [{ from: 'in' }], tolerance: { place: 'clouds' } })], {}, 'steps[1].parameters.tolerance: Ground tolerance is no cloud.'],
    ['a parameter of another version', [importing, work('ground', 'find-ground', { clouds: [{ from: 'in' }], magic: 1 })], {}, 'steps[1].parameters.magic: Find ground has no parameter “magic” in this version.'],
    ['something to leave that no step makes', [importing], { outputs: [{ of: 'surface', format: 'dxf' }] }, 'outputs[0].of: There is no step “surface”.'],
    ['a form that nothing leaves in', [importing], { outputs: [{ of: 'in', format: 'docx' }] }, 'outputs[0].format: No product leaves as “docx”.'],
    ['a gate before what it looks at', [{ kind: 'gate', key: 'g', gate: { rule: 'figure', of: 'surface', figure: 'Triangles', must: 'at-least', limit: 1 } }, importing, surface], {}, 'steps[0].gate.of: There is no earlier step “surface” to take a figure from.'],
  ])('%s', (_what, steps, more, told) => expect(faults(steps, more)).toContain(told)); // prettier-ignore

  test('a cloud that is asked for and not given is told in words, and where', () => {
    expect(faults([importing, work('ground', 'find-ground')])).toEqual([
      expect.stringMatching(/^steps\[1\]\.parameters\.clouds: .*choose what it works on\.$/),
    ]);
  });

  test('a value given at the run, and one in spacings, count as given', () => {
    expect(faults([importing, work('g', 'find-ground', { clouds: [{ place: 'clouds' }], tolerance: { place: 'limit' } })])).toEqual([]); // prettier-ignore
    expect(faults([importing, work('g', 'find-ground', { clouds: [{ from: 'in' }], cell: { spacings: 3 } })])).toEqual([]); // prettier-ignore
  });

  test('all that is wrong is told at once, not one after the other', () => {
    expect(faults([work('a', 'nothing'), work('b', 'nought'), work('a', 'find-ground', { magic: 1 })]).length).toBeGreaterThanOrEqual(4); // prettier-ignore
  });

  test('one of a newer version says so, and that it is not damaged', () => {
    const read = readRunSheet({ format: 'pampero-run-sheet', version: 99, name: 'S', somethingNew: true });
    expect(read).toEqual({ faults: [{ at: 'version', message: expect.stringMatching(/newer Pampero \(version 99/) }] });
  });

  test('places in the file are told as one writes them', () => {
    expect(pathText(['steps', 2, 'parameters', 'clouds', 0, 'from'])).toBe('steps[2].parameters.clouds[0].from');
    expect([pathText([]), pathText([3]), pathText(['name'])]).toEqual(['', '[3]', 'name']);
  });
});

describe('a sheet made of what was done', () => {
  const step = (id: number, operation: string, parameters: object, made: readonly [('cloud' | 'product'), number][] = []) => ({ id, operation, parameters: parameters as Record<string, unknown>, made: made.map(([kind, of]) => ({ kind, id: of })) }); // prettier-ignore

  test('the order of the field book, whatever order they were picked in; keys are told apart', () => {
    const { sheet } = sheetFromSteps('S', [
      step(9, 'build-surface', { clouds: [4] }, [['product', 2]]),
      step(2, 'import-cloud', { fileName: 'b.las' }, [['cloud', 5]]),
      step(1, 'import-cloud', { fileName: 'a.las' }, [['cloud', 4]]),
      step(8, 'find-ground', { clouds: [4, 5] }),
    ], 'metre'); // prettier-ignore
    expect(sheet.steps!.map(({ key }) => key)).toEqual(['import-cloud', 'import-cloud-2', 'find-ground', 'build-surface']); // prettier-ignore
    expect(sheet.steps![2]).toMatchObject({ parameters: { clouds: [{ from: 'import-cloud' }, { from: 'import-cloud-2' }] } }); // prettier-ignore
    expect(sheet.places!.map(({ key }) => key)).toEqual(['cloud-files', 'cloud-files-2']);
    // Which file it was is no part of how the work is done.
    expect(JSON.stringify(sheet)).not.toContain('a.las');
  });

  test('what works from something that no step makes is left out, with what to do', () => {
    const { sheet, leftOut } = sheetFromSteps('S', [step(3, 'draw-contours', { on: 'surface', surfaceId: 77, interval: 1 })], 'metre'); // prettier-ignore
    expect(sheet.steps).toEqual([]);
    expect(leftOut).toEqual([{ id: 3, because: expect.stringContaining('Choose the step that made it as well.') }]);
  });

  test('so is what this version does not know', () => {
    expect(sheetFromSteps('S', [step(3, 'make-coffee', {})], 'metre').leftOut).toEqual([
      { id: 3, because: 'Its operation is not known in this version.' },
    ]);
  });

  test('two clouds that none of the steps brought are one place, asked for once', () => {
    const { sheet } = sheetFromSteps('S', [step(1, 'find-ground', { clouds: [1, 2] }), step(2, 'build-surface', { clouds: [2] })], 'metre'); // prettier-ignore
    expect(sheet.places!.map(({ key }) => key)).toEqual(['clouds']);
    expect(sheet.steps!.map((each) => (each as unknown as { parameters: { clouds: unknown } }).parameters.clouds)).toEqual([[{ place: 'clouds' }], [{ place: 'clouds' }]]); // prettier-ignore
  });

  test('lengths keep the unit they were typed in, so that a job in feet does the same', () => {
    const made = (unit: 'metre' | 'us-survey-foot') => sheetFromSteps('S', [step(1, 'find-ground', { clouds: [1], tolerance: 0.25, refine: true })], unit).sheet.steps![0] as { parameters: object }; // prettier-ignore
    expect(made('metre').parameters).toMatchObject({ tolerance: '0.25 m', refine: true });
    expect(made('us-survey-foot').parameters).toMatchObject({ tolerance: '0.25 ftUS' });
  });
});
