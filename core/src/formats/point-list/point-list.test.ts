import { expect, test } from 'vitest';
import { exchanged, POINT_ORDERS, readPointList } from './index.js';

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

test.each([
  ['name,easting,northing,elevation', 'PNEZD', 'PENZD'],
  ['Punto;Norte;Este;Cota;Código', 'PENZD', 'PNEZD'],
  ['x\ty\tz', 'NEZD', 'ENZD'],
] as const)('the heading “%s” contradicts %s, and names %s', (heading, chosen, right) => {
  const delimiter = /[,;\t]/.exec(heading)![0];
  const row = ['C1', '5512010.5', '6150020.125', '31.25'].slice(chosen.startsWith('P') ? 0 : 1).join(delimiter);
  expect(() => readPointList(`${heading}\n${row}\n`, chosen, 'c.csv')).toThrow(/is not in the order/);
  try {
    readPointList(`${heading}\n${row}\n`, chosen, 'c.csv');
  } catch (error) {
    expect((error as { fix: string }).fix).toBe(`Choose the order ${right}.`);
    expect((error as { where: string }).where).toBe('c.csv, line 1');
  }
  expect(readPointList(`${heading}\n${row}\n`, right, 'c.csv')).toHaveLength(1);
});

test('a heading that says nothing of the order is passed over', () => {
  for (const heading of ['first,second,third,fourth', 'point,a,b,elevation', 'GNSS survey of the bank'])
    expect(readPointList(`${heading}\nC1,1,2,3`, 'PNEZD', 'c.csv')).toHaveLength(1);
});

test('each order has one with easting and northing exchanged', () => {
  for (const order of POINT_ORDERS) {
    expect(POINT_ORDERS).toContain(exchanged(order));
    expect(exchanged(exchanged(order))).toBe(order);
  }
});
