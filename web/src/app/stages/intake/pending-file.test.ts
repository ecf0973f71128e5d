import type { FileLook } from '@pampero/contract';
import { NEVER, of, Subject, throwError, type Observable } from 'rxjs';
import { describe, expect, test, vi } from 'vitest';
import type { ApiClient } from '../../api/api-client';
import type { Sending } from '../../api/file-sender';
import { PendingFile } from './pending-file';

const LOOK: FileLook = {
  fileName: 'pasture.csv',
  fileBytes: 1000,
  format: 'text',
  sampledPoints: 3,
  attributes: [],
  findings: [],
  text: {
    lines: ['1;2;3'],
    layout: { delimiter: ';', hasDecimalComma: false, skippedLines: 0, columns: ['easting', 'northing', 'elevation'] },
  },
};

/** A server that answers at once, and what it was asked. */
function server({ look = () => of(LOOK) }: { look?: () => Observable<FileLook> } = {}) {
  const sending = new Subject<Sending>();
  const lookAtFile = vi.fn((_id: string, _given: { body: unknown }) => look());
  const api = { call: lookAtFile } as unknown as ApiClient;
  const sender = { send: () => sending };
  const picked = () =>
    new PendingFile(api, sender, 'job', 'metre', 'pasture.csv', 1000, { folderPath: 'a/pasture.csv' });
  const sent = () => new PendingFile(api, sender, 'job', 'metre', 'strip.las', 9, new File(['123456789'], 'strip.las'));
  return { sending, lookAtFile, picked, sent, asked: () => lookAtFile.mock.calls.at(-1)![1].body };
}

describe('a file before it comes in', () => {
  test('one from the folder is looked at at once and is ready', () => {
    const { picked, asked } = server();
    const file = picked();
    expect(asked()).toEqual({ file: { folderPath: 'a/pasture.csv' } });
    expect([file.isReady(), file.sent()]).toEqual([true, 1]);
    expect(file.request()).toMatchObject({
      file: { folderPath: 'a/pasture.csv' },
      coordinates: 'moved',
      heights: { shift: 0 },
    });
  });

  test('one that is sent is looked at when all of it has arrived', () => {
    const { sending, lookAtFile, asked, sent } = server();
    const file = sent();
    sending.next({ sent: 0.4 });
    expect([file.sent(), file.isReady(), lookAtFile.mock.calls.length]).toEqual([0.4, false, 0]);
    sending.next({ sent: 1, uploadId: 'abcdef0123456789' });
    expect(asked()).toEqual({ file: { uploadId: 'abcdef0123456789', fileName: 'strip.las' } });
    expect(file.isReady()).toBe(true);
  });

  test('one that cannot be sent or used says why and is not ready', () => {
    const { sending, sent } = server();
    const file = sent();
    sending.error(new Error('The line is dead.'));
    expect([file.problem(), file.isReady()]).toEqual(['The line is dead.', false]);
    const broken = server({ look: () => throwError(() => new Error('This is no cloud.')) }).picked();
    expect([broken.problem(), broken.isReady(), broken.isLooking()]).toEqual(['This is no cloud.', false, false]);
  });

  test('a column’s meaning moves: who had it before loses it, and the file is looked at again', () => {
    const { picked, asked } = server();
    const file = picked();
    file.setColumn(2, 'easting');
    expect(asked()).toMatchObject({ layout: { columns: ['none', 'northing', 'easting'] } });
    file.changeLayout({ delimiter: ',' });
    expect(asked()).toMatchObject({ layout: { delimiter: ',' } });
  });

  test.each([
    ['-148, 136, 90, 0.5, -1.2, 0.3, -2.1', [-148, 136, 90, 0.5, -1.2, 0.3, -2.1]],
    ['-148 136 90 0.5 -1.2 0.3 -2.1', [-148, 136, 90, 0.5, -1.2, 0.3, -2.1]],
    ['-148;136;90;0,5;-1,2;0,3;-2,1', [-148, 136, 90, 0.5, -1.2, 0.3, -2.1]],
    ['-148 136 90 0,5 -1,2 0,3 -2,1', [-148, 136, 90, 0.5, -1.2, 0.3, -2.1]],
  ])('seven parameters as people write them: %s', (typed, numbers) => {
    const file = server().picked();
    file.systemSource.set('own');
    file.definition.set('+proj=tmerc +lon_0=-60 +ellps=intl');
    file.sevenParameters.set(typed);
    expect(file.request()['crs']).toMatchObject({ sevenParameters: numbers });
  });

  test.each(['-148 136 90', '-148 136 90 0.5 -1.2 0.3 x', '1 2 3 4 5 6 7 8'])(
    'seven parameters that are none are refused and not passed over: %s',
    (typed) => {
      const file = server().picked();
      file.systemSource.set('own');
      file.definition.set('+proj=tmerc +lon_0=-60 +ellps=intl');
      file.sevenParameters.set(typed);
      expect(() => file.request()).toThrow(/^pasture\.csv: “.*” are not seven parameters\. Type seven numbers/);
    },
  );

  test('a system that was not chosen or typed is asked for', () => {
    const file = server().picked();
    file.systemSource.set('list');
    expect(() => file.request()).toThrow(/Choose its coordinate system from the list/);
    file.systemSource.set('own');
    file.definition.set(' +p ');
    expect(() => file.request()).toThrow(/Type the PROJ string/);
    file.systemSource.set('file');
    expect(file.request()['crs']).toBeUndefined();
  });

  test('a system of the list, or one’s own with seven parameters, goes along', () => {
    const { picked, asked } = server();
    const file = picked();
    file.systemSource.set('list');
    file.system.set({ epsg: 5347, name: 'x', area: '', unit: 'metre' });
    file.again();
    expect(asked()).toMatchObject({ crs: { epsg: 5347 } });
    file.systemSource.set('own');
    file.definition.set(' +proj=tmerc +lon_0=-60 +ellps=intl ');
    file.sevenParameters.set('-148, 136, 90, 0.5, -1.2, 0.3, -2.1');
    expect(file.request()['crs']).toEqual({
      definition: '+proj=tmerc +lon_0=-60 +ellps=intl',
      sevenParameters: [-148, 136, 90, 0.5, -1.2, 0.3, -2.1],
    });
    file.systemSource.set('file');
    expect(file.request()['crs']).toBeUndefined();
  });

  test('a shift may be typed in any unit; what is no length is refused', () => {
    const { picked } = server();
    const file = picked();
    file.shift.set('25 cm');
    file.geoid.set('made-up-geoid.gtx');
    expect(file.request()['heights']).toEqual({ shift: 0.25, geoid: 'made-up-geoid.gtx' });
    file.shift.set('a bit');
    expect(() => file.request()).toThrow(/“a bit” is not a length/);
  });

  test('while a look is under way it is not ready; an older answer does not overtake a newer one', () => {
    let answers: (() => Observable<FileLook>)[] = [() => NEVER, () => of({ ...LOOK, format: 'newer' })];
    const { picked } = server({ look: () => answers.shift()!() });
    const file = picked();
    expect([file.isReady(), file.isLooking()]).toEqual([false, true]);
    file.again();
    expect([file.look()?.format, file.isReady()]).toEqual(['newer', true]);
    answers = [];
  });
});
