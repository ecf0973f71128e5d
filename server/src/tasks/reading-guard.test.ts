import { readFileSync, writeFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { PamperoError } from '@pampero/core/task';
import { fileStem } from '../products/file-names.js';
import { csvTable } from '../products/csv-table.js';
import { JobError } from '../errors/job-error.js';
import { explained, problemOf } from '../errors/problem.js';
import { checkRoom, freeBytes, isDiskFull } from '../errors/disk-room.js';
import { jobFileError, sqliteCode } from '../errors/sqlite-error.js';
import { checkTiff } from '../files/tiff-directory.js';
import { isLoopback } from '../loopback.js';
import { readSettings } from '../settings.js';
import { ReadingGuard } from './reading-guard.js';

const folder = mkdtempSync(join(tmpdir(), 'pampero-guard-'));
afterAll(() => rmSync(folder, { recursive: true }));

describe('the guard over a reading', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval', 'performance'] }));
  afterEach(() => void vi.useRealTimers());
  const file = { fileName: 'site.laz', bytes: 10_000_000 };
  const alone = (): boolean => false;

  test('ends one that says nothing for half a minute and half a second a megabyte', () => {
    const guard = new ReadingGuard(file, 1e6, alone);
    vi.advanceTimersByTime(34_000);
    expect(guard.signal.aborted).toBe(false);
    vi.advanceTimersByTime(2_000);
    expect(guard.signal.aborted).toBe(true);
    const error = guard.explain(new Error('The thread was ended.')) as PamperoError;
    expect(error).toMatchObject({
      code: 'reading-stopped',
      what: 'site.laz was being read for 35 s without an end, and reading was stopped.',
    });
    expect(error.fix).toMatch(/PAMPERO_MEMORY/);
  });

  test('lets one go on as long as it tells how far it is', () => {
    const guard = new ReadingGuard(file, 1e6, alone);
    for (let k = 0; k < 20; k++) {
      vi.advanceTimersByTime(30_000);
      guard.heard();
    }
    expect(guard.signal.aborted).toBe(false);
    guard.stop();
    vi.advanceTimersByTime(1e6);
    expect(guard.signal.aborted).toBe(false);
  });

  test('ends one that takes more memory than it may, and later where others may be the cause', () => {
    const resident = vi.spyOn(process.memoryUsage, 'rss').mockReturnValue(300e6);
    const [strict, patient] = [new ReadingGuard(file, 500, alone), new ReadingGuard(file, 500, () => true)];
    resident.mockReturnValue(900e6);
    vi.advanceTimersByTime(250);
    expect([strict.signal.aborted, patient.signal.aborted]).toEqual([true, false]);
    expect((strict.explain(undefined) as PamperoError).what).toMatch(/took more than 500 MB of memory/);
    resident.mockReturnValue(1900e6);
    vi.advanceTimersByTime(250);
    expect(patient.signal.aborted).toBe(true);
    resident.mockRestore();
  });

  test('tells a full heap as memory, and leaves every other error as it is', () => {
    const guard = new ReadingGuard(file, 500, alone);
    for (const error of [
      Object.assign(new Error('Worker terminated'), { code: 'ERR_WORKER_OUT_OF_MEMORY' }),
      new RangeError('Array buffer allocation failed'),
      new RangeError('Invalid typed array length: 9e9'),
    ])
      expect(guard.explain(error)).toMatchObject({ code: 'reading-stopped' });
    const other = new Error('Something else');
    expect(guard.explain(other)).toBe(other);
    guard.stop();
  });
});

describe('what SQLite and the disk say', () => {
  const wrapped = (code: string): unknown => ({ name: 'SequelizeDatabaseError', parent: { code } });

  test('is found however deep it is wrapped', () => {
    expect(sqliteCode(wrapped('SQLITE_FULL'))).toBe('SQLITE_FULL');
    expect(sqliteCode(new Error('SQLITE_BUSY: database is locked'))).toBe('SQLITE_BUSY');
    expect(sqliteCode({ original: { cause: { code: 'SQLITE_CORRUPT' } } })).toBe('SQLITE_CORRUPT');
    expect(sqliteCode(new Error('no'))).toBeUndefined();
    expect(sqliteCode(undefined)).toBeUndefined();
  });

  test.each([
    ['SQLITE_NOTADB', 'not-a-job-file'],
    ['SQLITE_CORRUPT', 'job-damaged'],
    ['SQLITE_BUSY', 'job-locked'],
    ['SQLITE_CANTOPEN', 'job-damaged'],
    ['SQLITE_MISUSE', 'not-found'],
  ])('%s of a job file means %s', (code, told) => {
    expect(jobFileError(wrapped(code), 'bank.pampero')).toMatchObject({ code: told });
  });

  test('a full disk is told with what is free, whoever wrote', async () => {
    for (const error of [
      Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' }),
      wrapped('SQLITE_FULL'),
      Object.assign(new Error('quota'), { code: 'EDQUOT' }),
    ]) {
      expect(isDiskFull(error)).toBe(true);
      expect(problemOf(await explained(error, folder))).toMatchObject({
        status: 507,
        code: 'disk-full',
        detail: expect.stringMatching(/disk is full: [\d.]+ [MG]B are free/),
      });
    }
    expect(isDiskFull(new Error('no'))).toBe(false);
    expect(await freeBytes(folder)).toBeGreaterThan(0);
    await expect(checkRoom(folder, 1, 'A file')).resolves.toBeUndefined();
    await expect(checkRoom(folder, 2 ** 60, 'The file')).rejects.toMatchObject({
      what: expect.stringMatching(/^The file needs 1152921504\.6 GB, and [\d.]+ [MG]B are free/),
    });
  });

  test('our own mistake in a statement stays one; a path of the machine is never shown', async () => {
    expect(problemOf(await explained(wrapped('SQLITE_ERROR'), folder)).status).toBe(500);
    const missing = Object.assign(new Error('ENOENT: no such file, open /srv/data/x'), {
      status: 404,
      syscall: 'open',
    });
    expect(problemOf(missing).detail).toBe('What was asked for cannot be read.');
    expect(problemOf(new JobError('job-locked', { what: 'Held.' })).status).toBe(423);
    expect(problemOf(new PamperoError('wrong-host', { what: 'No.' })).status).toBe(421);
  });
});

describe('names of files and cells of tables', () => {
  test.each([
    ['Bank, east reach', 'Bank, east reach'],
    ['a/b\\c:d*e?f"g<h>i|j', 'a-b-c-d-e-f-g-h-i-j'],
    ['..hidden', 'hidden'],
    ['   ', 'pampero'],
    ['con', 'pampero con'],
    ['NUL.txt', 'pampero NUL.txt'],
    ['contour', 'contour'],
    ['fdp.\u202eexe', 'fdp.exe'],
    ['x'.repeat(300), 'x'.repeat(120)],
  ])('%j becomes %j', (name, stem) => {
    expect(fileStem(name)).toBe(stem);
  });

  test('text that a spreadsheet would run is told to be text; figures stay figures (RFC 4180; OWASP, CSV injection)', () => {
    expect(csvTable([['=1+1', '+5', '-5', '-5.25e-3', '-edge', '@x', 'a"b', 'c,d', '\ttab', '']])).toBe(
      `'=1+1,+5,-5,-5.25e-3,'-edge,'@x,"a""b","c,d",'\ttab,\n`,
    );
  });
});

describe('settings', () => {
  test('a token is long enough, names come with commas, and the rest is as it was', () => {
    expect(readSettings({})).toMatchObject({ host: '127.0.0.1', token: undefined, names: [] });
    expect(readSettings({ PAMPERO_NAMES: 'a.example, b.example,,' }).names).toEqual(['a.example', 'b.example']);
    expect(() => readSettings({ PAMPERO_TOKEN: 'short' })).toThrow(/PAMPERO_TOKEN/);
  });

  test('this machine alone is reached under its loopback addresses', () => {
    for (const host of ['127.0.0.1', '127.1.2.3', 'localhost', '::1']) expect(isLoopback(host), host).toBe(true);
    for (const host of ['0.0.0.0', '::', '192.168.1.4', 'terrain.example', '127.0.0.1.evil.example'])
      expect(isLoopback(host), host).toBe(false);
  });
});

describe('the directory of a TIFF', () => {
  /** A little TIFF of one directory: tag, type, count, value; after TIFF 6.0, section 2. */
  const tiff = (
    ...entries: readonly (readonly [tag: number, type: number, count: number, value: number])[]
  ): string => {
    const bytes = Buffer.alloc(8 + 2 + entries.length * 12 + 4);
    bytes.write('II');
    bytes.writeUInt16LE(42, 2);
    bytes.writeUInt32LE(8, 4);
    bytes.writeUInt16LE(entries.length, 8);
    entries.forEach(([tag, type, count, value], k) => {
      const at = 10 + k * 12;
      bytes.writeUInt16LE(tag, at);
      bytes.writeUInt16LE(type, at + 2);
      bytes.writeUInt32LE(count, at + 4);
      bytes.writeUInt32LE(value, at + 8);
    });
    const path = join(folder, 'a.tif');
    writeFileSync(path, bytes);
    return path;
  };

  test('whose values lie in the file is believed', async () => {
    await expect(checkTiff(tiff([256, 3, 1, 10], [257, 3, 1, 10], [259, 3, 1, 5]))).resolves.toBeUndefined();
  });

  test.each([
    ['values beyond its end', [[324, 4, 1_000_000, 30]], /tag 324 lie beyond its end/],
    ['a width of nothing', [[256, 3, 1, 0]], /its width is 0/],
    ['tiles of nothing', [[322, 4, 1, 0]], /its tile width is 0/],
    ['a compression of pictures', [[259, 3, 1, 6]], /compressed as number 6/],
    // Both kept a library busy for minutes, found among 10 000 damaged pictures.
    ['a list of widths', [[256, 3, 2, 8]], /its width is no whole number/],
    ['a height of text', [[257, 2, 1, 48]], /its height is no whole number/],
  ] as const)('with %s is not', async (_, entries, what) => {
    await expect(checkTiff(tiff(...entries))).rejects.toThrow(what);
  });

  test('that leads back to itself is not', async () => {
    const path = tiff([256, 3, 1, 10], [257, 3, 1, 10]);
    const bytes = readFileSync(path);
    bytes.writeUInt32LE(8, bytes.length - 4);
    writeFileSync(path, bytes);
    await expect(checkTiff(path)).rejects.toThrow(/lead in a circle/);
  });

  test('that is none, or is cut short, is told as such', async () => {
    writeFileSync(join(folder, 'b.tif'), 'a picture of something');
    await expect(checkTiff(join(folder, 'b.tif'))).rejects.toThrow(/does not begin as a TIFF does/);
    writeFileSync(join(folder, 'c.tif'), Buffer.from('49492a00ff000000', 'hex'));
    await expect(checkTiff(join(folder, 'c.tif'))).rejects.toThrow(/before its directory/);
  });
});
