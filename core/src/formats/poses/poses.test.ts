import { describe, expect, test } from 'vitest';
import { posesOf, readPoses } from './index.js';

const read = (text: string, names?: readonly string[]) => readPoses(text, 'list.csv', names);
const meant = { angles: 'omega-phi-kappa', unit: 'degrees', positions: 'projected', north: 'grid' } as const;

describe('lists of photographs', () => {
  test.each([
    ['commas', 'file,east,north,height,omega,phi,kappa\na.jpg,1,2,3,0.5,-0.5,90\nb.jpg,4,5,6,0,0,-90\n'],
    [
      'tabs and a comment',
      '# taken in autumn\nImage\tX\tY\tZ\tOmega\tPhi\tKappa\na.jpg\t1\t2\t3\t0.5\t-0.5\t90\nb.jpg\t4\t5\t6\t0\t0\t-90',
    ],
    [
      'semicolons and decimal commas',
      'Name;E;N;Alt;omega (deg);phi (deg);kappa (deg)\n"a.jpg";1;2;3;0,5;-0,5;90\n"b.jpg";4;5;6;0;0;-90\n',
    ],
    [
      'blanks and headings in a comment',
      '#file east north height omega phi kappa\na.jpg  1 2 3  0.5 -0.5 90\nb.jpg 4 5 6 0 0 -90\n',
    ],
  ])('with %s', (_, text) => {
    const list = read(text);
    expect(list.files).toEqual(['a.jpg', 'b.jpg']);
    expect(list.skipped).toBe(0);
    const { east, up, angles } = posesOf(list, 'list.csv', meant, undefined, 1);
    expect([...east, ...up]).toEqual([1, 4, 3, 6]);
    expect(angles[0][0]).toBeCloseTo((0.5 * Math.PI) / 180, 15);
    expect(angles[2][1]).toBeCloseTo(-Math.PI / 2, 15);
  });

  test('columns named in their order, with some that are not used', () => {
    const list = read('7,x1.tif,10,20,30,200,0,100\n', ['-', 'file', 'east', 'north', 'height', 'kappa', 'phi', 'omega']); // prettier-ignore
    const { angles } = posesOf(list, 'list.csv', { ...meant, unit: 'gon' }, undefined, 1);
    expect(angles.map(([value]) => Math.abs(Math.round(value! * 1e9) / 1e9))).toEqual([1.570796327, 0, 3.141592654]);
  });

  test('lines that are none are counted and the first is told', () => {
    const list = read('file,time\na.jpg,100.5\nend of strip\n,7\nb.jpg,101.5\n');
    expect([list.files, list.skipped, list.firstSkipped]).toEqual([['a.jpg', 'b.jpg'], 2, 3]);
    expect([...list.columns['time']!]).toEqual([100.5, 101.5]);
  });

  test.each([
    ['a.jpg,1,2,3\n', 'no headings'],
    ['', 'no headings'],
    ['file,east\n', 'No line holds'],
  ])('what is none is refused in words: %j', (text, what) => {
    expect(() => read(text)).toThrow(what === 'no headings' ? 'have no headings' : what);
  });

  test('columns that the angles want and radians that are none are told', () => {
    const list = read('file,east,north,height,roll,pitch,heading\na,1,2,3,0,0,181\n');
    expect(() => posesOf(list, 'list.csv', meant, undefined, 1)).toThrow(
      'No column holds the omega; there are file, east',
    );
    expect(() => posesOf(list, 'list.csv', { ...meant, angles: 'platform', unit: 'radians' }, undefined, 1)).toThrow('they are degrees or gon'); // prettier-ignore
    expect(() => posesOf(list, 'list.csv', { ...meant, angles: 'platform', positions: 'geographic' }, undefined, 1)).toThrow('no coordinate system'); // prettier-ignore
    expect(() => read('x', ['file', 'colour'])).toThrow('“colour” is no column');
  });
});
