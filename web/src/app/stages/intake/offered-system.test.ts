import type { Crs, Job } from '@pampero/contract';
import { expect, test } from 'vitest';
import { offeredSystem } from './offered-system';

const local: Pick<Job, 'crs' | 'unit'> = { crs: { name: 'Local, metre' }, unit: 'metre' };
const stating = (crs: Crs | undefined) => ({ source: { crs } }) as never;
const gauss: Crs = { epsg: 5347, name: 'POSGAR 2007 / Argentina 5', horizontalUnit: 'metre' };

test('a job without a system is offered the one its cloud states', () => {
  expect(offeredSystem(local, stating(gauss))).toEqual({ epsg: 5347, title: 'POSGAR 2007 / Argentina 5' });
  expect(offeredSystem(local, stating({ epsg: 5347 }))).toEqual({ epsg: 5347, title: 'EPSG:5347' });
});

test.each<[string, Pick<Job, 'crs' | 'unit'> | undefined, Crs | undefined]>([
  ['the job has a system', { crs: { epsg: 5346 }, unit: 'metre' }, gauss],
  ['the job has a system of its own', { crs: { definition: '+proj=tmerc' }, unit: 'metre' }, gauss],
  ['the cloud states none', local, undefined],
  ['the cloud states a name alone', local, { name: 'Site grid' }],
  ['its coordinates are degrees', local, { epsg: 4326, isGeographic: true }],
  ['it is in another unit', local, { epsg: 2264, horizontalUnit: 'us-survey-foot' }],
  ['no job is open', undefined, gauss],
])('nothing is offered where %s', (_, job, crs) => expect(offeredSystem(job, stating(crs))).toBeUndefined());
