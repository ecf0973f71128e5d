import { describe, expect, test } from 'vitest';
import { holdingRows, removalOf, strandedBy, type Thing } from './holdings';

const things: readonly Thing[] = [
  { kind: 'lines', id: 8, name: 'KERB', bytes: 0, usedBy: ['Ground'] },
  { kind: 'cloud', id: 1, name: 'Strip 1', bytes: 44_147_601, usedBy: ['Ground', 'Grid'] },
  { kind: 'surface', id: 3, name: 'Ground', bytes: 21_500_000, usedBy: ['Contours 0.5 m'] },
  { kind: 'cloud', id: 3, name: 'Strip 2', bytes: 21_500_000, usedBy: [] },
];

describe('what the job holds', () => {
  test('is listed the largest first, each by a key of its own, with kind and size in words', () => {
    const rows = holdingRows(things, new Set(['product-3']));
    expect(rows.map(({ key, kindName, size, isChosen }) => [key, kindName, size, isChosen])).toEqual([
      ['cloud-1', 'Cloud', '44.1\u2009MB', false],
      ['product-3', 'Surface', '21.5\u2009MB', true],
      ['cloud-3', 'Cloud', '21.5\u2009MB', false],
      ['product-8', 'Lines', '–', false],
    ]);
  });

  test('a cloud and a product of one number are told apart where they are removed', () => {
    expect(removalOf([things[2]!, things[3]!])).toEqual({ clouds: [3], control: [], products: [3] });
    const pegs: Thing = { kind: 'control', id: 3, name: 'Check points, pegs.csv', bytes: 0, usedBy: [] };
    expect(removalOf([things[2]!, pegs])).toEqual({ clouds: [], control: [3], products: [3] });
    expect(holdingRows([pegs], new Set(['control-3']))[0]).toMatchObject({ kindName: 'Survey points', isChosen: true });
    expect(removalOf([])).toEqual({ clouds: [], control: [], products: [] });
  });

  test('what is left without its source is named once, and not where it goes as well', () => {
    expect(strandedBy([things[1]!, things[0]!])).toEqual(['Ground', 'Grid']);
    expect(strandedBy([things[1]!, things[2]!])).toEqual(['Grid', 'Contours 0.5 m']);
    expect(strandedBy([things[3]!])).toEqual([]);
    // A statement is judged anew by the survey points that are left.
    const pegs: Thing = { kind: 'control', id: 3, name: 'Check points', bytes: 0, usedBy: ['Accuracy'] };
    expect(strandedBy([pegs])).toEqual([]);
  });
});
