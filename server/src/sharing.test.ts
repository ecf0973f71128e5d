import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Share } from '@pampero/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

let host: TestServer;
let jobId: string;
let surfaceId: number;
const SECRET = 'Only in the other job';

beforeAll(async () => {
  host = await testServer();
  jobId = (await host.api.newJob('Shared </script><script>alert(1)</script>')).id;
  const cloud = (await host.api.import(jobId, await lasBytes(fieldWithShed()))).productId!;
  await host.api.operate(jobId, 'find-ground', { clouds: [cloud] });
  surfaceId = (await host.api.operate(jobId, 'build-surface', { clouds: [cloud] })).productId!;
  await host.api.call('pin', `/jobs/${jobId}/pins`, {
    body: { kind: 'note', name: '<img src=x onerror=alert(2)>', place: [5_512_010, 6_150_010, 30] },
  });
  await host.api.newJob(SECRET);
});
afterAll(() => host.stop());

const share = (more: Record<string, unknown> = {}): Promise<Share> =>
  host.api.call('share', `/jobs/${jobId}/shares`, { body: { view: { surfaceId }, ...more } });
const get = (address: string, init: RequestInit = {}): Promise<Response> =>
  fetch(host.server.url + address, { redirect: 'manual', ...init });
const form = (address: string, password: string): Promise<Response> =>
  get(address, { method: 'POST', body: new URLSearchParams({ password }) });

describe('the one file', () => {
  test('has no script, style or picture from outside, and nothing of a text becomes a tag', async () => {
    const { status, body } = await host.api.raw(`/jobs/${jobId}/client-view`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ surfaceId }),
    });
    const html = Buffer.from(body).toString();
    expect(status).toBe(200);
    expect(html).toContain("default-src 'none'");
    expect(html).not.toMatch(/<(script|link|img|iframe)[^>]+(src|href)=/);
    expect(html).not.toContain('alert(1)</script>');
    expect(html).not.toContain('<img src=x');
    expect(html).not.toContain(SECRET);
    expect(html).toContain('\\u003cimg src=x');
  });

  test.each([
    [{}, /surfaceId/],
    [{ surfaceId: 999 }, /no .*999/],
    [{ surfaceId: 'ground' }, /surfaceId|number/i],
    [{ megabytes: 0.1 }, /1 MB at least/],
    [{ clouds: [77] }, /77/],
    [{ pictureId: 77 }, /77/],
    [{ contoursId: 77 }, /77/],
  ])('%o is refused in words', async (options, expected) => {
    const { status, json } = await host.api.raw(`/jobs/${jobId}/client-view`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        ...('surfaceId' in options || Object.keys(options).length === 0 ? {} : { surfaceId }),
        ...options,
      }),
    });
    expect(status).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(500);
    expect(JSON.stringify(json())).toMatch(expected);
  });
});

describe('a link', () => {
  test('opens a page in a world of its own, that is listed and taken back', async () => {
    const made = await share();
    expect(made.address).toMatch(/^\/shared\/[\w-]{32}$/);
    const page = await get(made.address);
    expect(page.status).toBe(200);
    // An opaque origin: no cookie of the server, no call of its API, no form, no other window.
    expect(page.headers.get('content-security-policy')).toMatch(/default-src 'none'.*sandbox allow-scripts$/);
    expect(page.headers.get('referrer-policy')).toBe('no-referrer');
    expect(page.headers.get('x-robots-tag')).toBe('noindex');
    expect(page.headers.get('cache-control')).toBe('no-store');
    expect(await page.text()).not.toContain(SECRET);
    expect((await host.api.call('listShares', `/jobs/${jobId}/shares`)).map(({ id }) => id)).toContain(made.id);
    await host.api.call('endShare', `/jobs/${jobId}/shares/${made.id}`);
    expect((await get(made.address)).status).toBe(404);
    expect((await readdir(join(host.data, 'shares'))).filter((name) => name.startsWith(made.id))).toEqual([]);
  });

  test('is not found by guessing, nor are files beside it, nor the note that says when it ends', async () => {
    const made = await share();
    const wrong = made.id.slice(0, -1) + (made.id.endsWith('A') ? 'B' : 'A');
    for (const id of [
      wrong,
      '..%2F..%2Fjobs',
      `${made.id}.json`,
      `${made.id}.html`,
      `${made.id}%00`,
      'a'.repeat(5000),
      '',
      '.',
      '*',
    ])
      expect((await get(`/shared/${id}`)).status, id.slice(0, 60)).toBeGreaterThanOrEqual(400);
  });

  test('writes nothing, whatever is sent to it', async () => {
    const made = await share();
    for (const method of ['POST', 'PUT', 'DELETE', 'PATCH'])
      expect((await get(made.address, { method })).status, method).toBeGreaterThanOrEqual(400);
    expect((await get(`${made.address}/jobs`)).status).toBe(404);
    expect((await get(made.address)).status).toBe(200);
  });

  test('asks for its password, takes the right one alone, and remembers it for this address only', async () => {
    const made = await share({ password: 'río crecido' });
    const other = await share({ password: 'another one' });
    const asked = await (await get(made.address)).text();
    expect(asked).toContain('Password');
    expect(asked).not.toContain('id="land"');
    expect(asked).not.toContain('Shared');
    expect((await form(made.address, 'wrong')).status).toBe(401);
    const opened = await form(made.address, 'río crecido');
    expect(opened.status).toBe(303);
    const cookie = opened.headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Strict/);
    expect(cookie).toContain(`Path=${made.address}`);
    const headers = { cookie: cookie.split(';')[0]! };
    expect(await (await get(made.address, { headers })).text()).toContain('id="land"');
    expect(await (await get(other.address, { headers })).text()).toContain('Password');
    // The password itself lies nowhere.
    for (const name of await readdir(join(host.data, 'shares')))
      if (name.endsWith('.json'))
        expect(await readFile(join(host.data, 'shares', name), 'utf8')).not.toContain('crecido');
  });

  test('lets nobody try passwords for ever', async () => {
    const made = await share({ password: 'not to be guessed' });
    const states: number[] = [];
    for (let k = 0; k < 14; k++) states.push((await form(made.address, `guess ${k}`)).status);
    expect(states).toContain(429);
  });

  test('ends on its day, and its page is gone from the disk', async () => {
    const made = await share({ days: 1 });
    const note = join(host.data, 'shares', `${made.id}.json`);
    const kept = JSON.parse(await readFile(note, 'utf8')) as Record<string, unknown>;
    expect(Date.parse(made.until) - Date.now()).toBeGreaterThan(23 * 3600 * 1000);
    await writeFile(note, JSON.stringify({ ...kept, until: new Date(Date.now() - 1000).toISOString() }));
    const ended = await get(made.address);
    expect(ended.status).toBe(410);
    expect(await ended.text()).toContain('has ended');
    expect(await readdir(join(host.data, 'shares'))).not.toContain(`${made.id}.html`);
    const listed = await host.api.call('listShares', `/jobs/${jobId}/shares`);
    expect(listed.find(({ id }) => id === made.id)!.hasEnded).toBe(true);
  });

  test('is not ended from another job, and goes with its own', async () => {
    const made = await share();
    const other = await host.api.newJob('Other');
    expect((await host.api.raw(`/jobs/${other.id}/shares/${made.id}`, { method: 'DELETE' })).status).toBe(404);
    expect((await get(made.address)).status).toBe(200);
    await host.api.call('removeJob', `/jobs/${jobId}`);
    expect((await get(made.address)).status).toBe(404);
  });
});
