import { expect, test } from 'vitest';
import { readPointList } from './index.js';

test('PNEZD with a heading, and the same as PENZD', () => {
  const want = [{ number: 'C1', northing: 6150020.125, easting: 5512010.5, elevation: 31.25, code: 'GCP' }];
  expect(
    readPointList('point,northing,easting,elevation,code\nC1,6150020.125,5512010.5,31.25,GCP\n', 'PNEZD', 'c.csv'),
  ).toEqual(want);
  expect(readPointList('C1;5512010,5;6150020,125;31,25;GCP', 'PENZD', 'c.csv')).toEqual(want);
  expect(readPointList('# made up\n6150020.125\t5512010.5\t31.25\tGCP\r\n', 'NEZD', 'c.txt')).toEqual([
    { ...want[0], number: '1' },
  ]);
});

test('a wrong line is named and nothing is taken', () => {
  expect(() => readPointList('C1,1,2,3,X\nC2,1,two,3,X', 'PNEZD', 'c.csv')).toThrow(/c\.csv, line 2/);
  expect(() => readPointList('only,words\n', 'PNEZD', 'c.csv')).toThrow(/No line is a point/);
});
