import { jobIdSchema } from '@pampero/contract';
import { describe, expect, test } from 'vitest';
import { jobPath, wordsOfId } from './job-paths.js';

describe('the words that a job’s id begins with', () => {
  test.each([
    ['North bank, flight 2', 'north-bank-flight-2'],
    ['Río Grande: ñandú', 'rio-grande-nandu'],
    ['  -- 7 --  ', '7'],
    ['河岸', 'job'],
    ['', 'job'],
    ['../../etc/passwd', 'etc-passwd'],
    ['A'.repeat(200), 'a'.repeat(60)],
  ])('%s: %s', (name, words) => expect(wordsOfId(name)).toBe(words));

  test('make an id that is one, whatever the name', () => {
    for (const name of ['x/y\\z', 'con', '.hidden', '🛰️ flight', 'a\u0000b', '%2e%2e', 'UPPER'])
      expect(jobIdSchema.safeParse(`${wordsOfId(name)}-1a2b`).success, name).toBe(true);
  });

  test('the file lies in the folder of jobs', () => {
    expect(jobPath('/data', 'bank-1a2b')).toBe('/data/bank-1a2b.pampero');
  });
});
