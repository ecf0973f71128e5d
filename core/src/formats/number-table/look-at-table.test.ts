import { expect, test } from 'vitest';
import { trajectoryColumn } from '../trajectory/index.js';
import { scanColumn } from '../raw-scan/index.js';
import { lookAtTable } from './index.js';

test('headings tell what columns are; those that do not are left to be named', () => {
  const look = lookAtTable(
    '# flight of the morning\nGpsTime;Easting;Northing;Height;Roll;Pitch;Heading;Satellites\n1,5;10,0;20,0;30,0;0,1;0,2;90,0;11\n2,5;11,0;20,0;30,0;0,1;0,2;90,0;12\n',
    trajectoryColumn,
  )!;
  expect(look.columns.map(({ name }) => name)).toEqual(['time', 'east', 'north', 'height', 'roll', 'pitch', 'heading', '-']); // prettier-ignore
  expect(look.columns[7]).toEqual({ heading: 'Satellites', name: '-', first: ['11', '12'] });
  expect(look.columns[0]!.first).toEqual(['1,5', '2,5']);
});

test('without headings every column is there, unnamed', () => {
  const look = lookAtTable('1.0 80.2 -12.5 76\n1.1 80.3 -12.4 77\n', scanColumn)!;
  expect(look.columns.map(({ name, heading }) => name + heading)).toEqual(['-', '-', '-', '-']);
  expect(look.columns[3]!.first).toEqual(['76', '77']);
});

test('what is no table is not looked at', () => {
  expect(lookAtTable('dear surveyor,\nplease find enclosed\n', scanColumn)).toBeUndefined();
  expect(lookAtTable('', scanColumn)).toBeUndefined();
});
