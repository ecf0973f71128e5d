import { describe, expect, test } from 'vitest';
import { endpoints } from './index.js';
import type { Endpoint } from './endpoint.js';

const all = Object.entries(endpoints) as [string, Endpoint][];

test('no two calls share a method and a path, whatever their parameters are called', () => {
  const places = all.map(([, { method, path }]) => `${method} ${path.replace(/\{[^}]+\}/g, '{}')}`);
  expect(new Set(places).size).toBe(places.length);
});

describe.each(all)('%s', (id, endpoint) => {
  const { method, path, summary, params, query, body, bodyType, status, response, responseType } = endpoint;

  test('says in a sentence what it does', () => {
    expect(summary).toMatch(/^[A-Z“].*\.$/s);
    expect(id).toMatch(/^[a-z][A-Za-z]+$/);
  });

  test('its path is small letters and dashes, and declares each of its parameters, none more', () => {
    const named = [...path.matchAll(/\{([^}]+)\}/g)].map(([, name]) => name!);
    expect(path.replace(/\{[^}]+\}/g, 'x')).toMatch(/^(\/[a-z0-9-]+)+$/);
    expect(Object.keys(params?.shape ?? {}).sort()).toEqual([...named].sort());
  });

  test('what it answers goes with its status: nothing to 204, something to all others', () => {
    if (status === 204) expect([response, responseType]).toEqual([undefined, undefined]);
    else expect([response, responseType].filter((each) => each !== undefined)).not.toEqual([]);
    if (status === 202) expect(method).toBe('post');
  });

  test('reading takes no body; a body is JSON or bytes and not both', () => {
    if (method === 'get' || method === 'delete') expect([body, bodyType]).toEqual([undefined, undefined]);
    expect(body !== undefined && bodyType !== undefined).toBe(false);
  });

  test('numbers in its path and query are numbers, and nothing else is taken for one', () => {
    for (const schema of Object.values({ ...params?.shape })) {
      const isNumber = schema.safeParse('7').success && schema.safeParse(7).success;
      if (!isNumber) continue;
      for (const wrong of ['7.5', '-1', 'x', '1e99']) expect(schema.safeParse(wrong).success, wrong).toBe(false);
    }
    if (query) expect(query.safeParse({ nothingSuch: '1' }).success).toBe(false);
  });
});

test('ids of jobs are words of a file name: nothing leads out of the folder', () => {
  const jobs = all.filter(([, { params }]) => params && 'jobId' in params.shape);
  expect(jobs.length).toBeGreaterThan(20);
  for (const [name, { params }] of jobs)
    for (const wrong of ['../x', 'a/b', 'a\\b', '..', '.', '', 'UPPER', 'a b', 'a%2fb', 'a\0b', 'x'.repeat(300)])
      expect(params!.shape['jobId']!.safeParse(wrong), `${name} ${wrong}`).toMatchObject({ success: false });
});
