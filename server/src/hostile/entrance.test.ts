import { connect, type Socket } from 'node:net';
import { request, type IncomingHttpHeaders } from 'node:http';
import { hostname, networkInterfaces } from 'node:os';
import { afterEach, describe, expect, test } from 'vitest';
import { spawnedServer, type SpawnedServer } from '../spawned-server.fixture.js';

/*
 * The built server as those see it who should not get in. What a browser sends is after the Fetch standard (Sec-Fetch-Site, Origin,
 * https://fetch.spec.whatwg.org and https://www.w3.org/TR/fetch-metadata), SameSite after RFC 6265bis.
 */

let server: SpawnedServer | undefined;
afterEach(async () => {
  await server?.stop();
  server = undefined;
});

interface Answer {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly text: string;
}

/** A request with whatever headers, also those that fetch would not let through. */
function ask(
  path: string,
  {
    method = 'GET',
    headers = {},
    body = '',
  }: { method?: string; headers?: Record<string, string>; body?: string } = {},
): Promise<Answer> {
  const { hostname: host, port } = new URL(server!.url);
  return new Promise((resolve, reject) => {
    const going = request({ host: host === '0.0.0.0' ? '127.0.0.1' : host, port, path, method, headers }, (answer) => {
      let text = '';
      answer.on('data', (chunk: Buffer) => (text += chunk.toString()));
      answer.on('end', () => resolve({ status: answer.statusCode!, headers: answer.headers, text }));
    });
    going.on('error', reject);
    going.end(body);
  });
}

const JSON_TYPE = { 'content-type': 'application/json' };

describe('a server for this machine alone', () => {
  test('answers under its own names only: a name that was made to lead here is turned away', async () => {
    server = await spawnedServer();
    const { port } = new URL(server.url);
    for (const host of [`127.0.0.1:${port}`, `localhost:${port}`, 'LOCALHOST', '[::1]:80'])
      expect((await ask('/api/jobs', { headers: { host } })).status, host).toBe(200);
    for (const host of [
      'evil.example',
      `evil.example:${port}`,
      'localhost.evil.example',
      '127.0.0.1.nip.example',
      'a b',
      '10.0.0.7',
    ]) {
      expect([421, 400], host).toContain((await ask('/api/jobs', { headers: { host } })).status);
      expect([421, 400], host).toContain((await ask('/', { headers: { host } })).status);
    }
  });

  test('nothing is changed, read or begun for a page of another origin, whatever it makes the browser send', async () => {
    server = await spawnedServer();
    const { port } = new URL(server.url);
    const { id } = await server.api.newJob('Mine');
    const foreign: Record<string, string>[] = [
      { 'sec-fetch-site': 'cross-site' },
      { 'sec-fetch-site': 'same-site', origin: 'http://127.0.0.1:1' },
      { origin: 'http://evil.example' },
      { origin: 'null' },
      { origin: `http://127.0.0.1:${Number(port) + 1}` },
      { origin: `http://127.0.0.1:${port}.evil.example` },
    ];
    for (const headers of foreign) {
      const told = JSON.stringify(headers);
      // A form needs no leave of the other side, and sends text or form fields.
      for (const type of ['application/json', 'text/plain', 'application/x-www-form-urlencoded'])
        expect(
          (await ask(`/api/jobs/${id}/undo`, { method: 'POST', headers: { ...headers, 'content-type': type } })).status,
          told,
        ).toBe(403);
      expect(
        (await ask('/api/jobs', { method: 'POST', headers: { ...headers, ...JSON_TYPE }, body: '{"name":"x"}' }))
          .status,
        told,
      ).toBe(403);
      expect((await ask(`/api/jobs/${id}`, { method: 'DELETE', headers })).status, told).toBe(403);
      // A picture on another page would begin an export.
      expect((await ask(`/api/jobs/${id}/file`, { headers })).status, told).toBe(403);
      for (const method of ['OPTIONS', 'POST']) {
        const answer = await ask('/api/uploads', {
          method,
          headers: { ...headers, 'tus-resumable': '1.0.0', 'upload-length': '5' },
        });
        expect([answer.status, answer.headers['access-control-allow-origin']], told).toEqual([403, undefined]);
      }
    }
    expect(await server.api.call('listJobs', '/jobs')).toHaveLength(1);
  });

  test('its own page, a script without a page, and a link from elsewhere to the page get in', async () => {
    server = await spawnedServer();
    const own = { origin: server.url, 'sec-fetch-site': 'same-origin', ...JSON_TYPE };
    expect((await ask('/api/jobs', { method: 'POST', headers: own, body: '{"name":"x"}' })).status).toBe(201);
    expect((await ask('/api/jobs', { method: 'POST', headers: JSON_TYPE, body: '{"name":"y"}' })).status).toBe(201);
    const link = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', accept: 'text/html' };
    expect((await ask('/', { headers: link })).status).toBe(200);
    expect((await ask('/api/jobs', { headers: link })).status).toBe(403);
  });

  test('no token is asked for, unless one is set', async () => {
    server = await spawnedServer();
    expect(server.output()).not.toMatch(/token/);
    await server.stop();
    server = await spawnedServer({ PAMPERO_TOKEN: 'a-token-of-mine' });
    expect((await ask('/api/jobs')).status).toBe(401);
    expect((await ask('/api/jobs', { headers: { authorization: 'Bearer a-token-of-mine' } })).status).toBe(200);
  });
});

describe('a server that others reach', () => {
  const token = 'seven-herons-by-the-river';
  const open = (more: Record<string, string> = {}): Promise<SpawnedServer> =>
    spawnedServer({ PAMPERO_HOST: '0.0.0.0', PAMPERO_TOKEN: token, ...more });

  test('makes up a token where none is set, and prints it once', async () => {
    server = await spawnedServer({ PAMPERO_HOST: '0.0.0.0' });
    const printed = /made up now[^\n]*\n\s*(\S{20,})\n/.exec(server.output())?.[1];
    expect(printed).toBeDefined();
    const headers = { host: '127.0.0.1' };
    expect((await ask('/api/jobs', { headers })).status).toBe(401);
    expect((await ask('/api/jobs', { headers: { ...headers, authorization: `Bearer ${printed}` } })).status).toBe(200);
  });

  test('a token that is too short stops the start, and it is said why', async () => {
    await expect(spawnedServer({ PAMPERO_TOKEN: 'short' })).rejects.toThrow(/PAMPERO_TOKEN.*12 letters/);
  });

  test('every path but the door is closed without the token: API, events, uploads, pages, scripts', async () => {
    server = await open();
    for (const path of [
      '/api/jobs',
      '/api/openapi.json',
      '/api/uploads',
      '/api/jobs/x/events',
      '/main.js',
      '/api/operations',
    ])
      expect((await ask(path, { headers: { host: '127.0.0.1' } })).status, path).toBe(401);
    expect(
      (await ask('/api/jobs', { method: 'POST', headers: { host: '127.0.0.1', ...JSON_TYPE }, body: '{"name":"x"}' }))
        .status,
    ).toBe(401);
    const page = await ask('/', { headers: { host: '127.0.0.1', accept: 'text/html' } });
    expect([page.status, page.headers.location]).toEqual([303, '/enter']);
    for (const authorization of ['Bearer ', `Bearer ${token}x`, `Basic ${token}`, `bearer ${token}`, token])
      expect((await ask('/api/jobs', { headers: { host: '127.0.0.1', authorization } })).status, authorization).toBe(
        401,
      );
  });

  test('the page asks once; the cookie it gives is out of reach of scripts and other sites, and is not the token', async () => {
    server = await open();
    const form = { host: '127.0.0.1', 'content-type': 'application/x-www-form-urlencoded' };
    const asked = await ask('/enter', { headers: { host: '127.0.0.1' } });
    expect(asked.text).toContain('<form method="post" action="/enter">');
    expect(asked.headers['content-security-policy']).toMatch(/default-src 'self'.*form-action 'self'/);
    const entered = await ask('/enter', { method: 'POST', headers: form, body: `token=${token}` });
    const [cookie] = entered.headers['set-cookie']!;
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Strict/);
    expect(cookie).not.toContain(token);
    const kept = cookie!.split(';')[0]!;
    expect((await ask('/api/jobs', { headers: { host: '127.0.0.1', cookie: `other=1; ${kept}` } })).status).toBe(200);
    expect((await ask('/api/jobs', { headers: { host: '127.0.0.1', cookie: 'pampero=guess' } })).status).toBe(401);
    // The cookie alone is no leave for another site's page.
    expect(
      (
        await ask('/api/jobs', {
          method: 'POST',
          headers: { host: '127.0.0.1', cookie: kept, origin: 'http://evil.example', ...JSON_TYPE },
          body: '{"name":"x"}',
        })
      ).status,
    ).toBe(403);
    // Nor does a page elsewhere log anyone in.
    expect(
      (
        await ask('/enter', {
          method: 'POST',
          headers: { ...form, origin: 'http://evil.example' },
          body: `token=${token}`,
        })
      ).status,
    ).toBe(403);
  });

  test('guessing is slowed down, and what was guessed is not shown back', async () => {
    server = await open();
    const headers = { host: '127.0.0.1', 'content-type': 'application/x-www-form-urlencoded' };
    const statuses: number[] = [];
    for (let k = 0; k < 14; k++) {
      const answer = await ask('/enter', {
        method: 'POST',
        headers,
        body: `token=${encodeURIComponent(`<script>${k}</script>`)}`,
      });
      statuses.push(answer.status);
      expect(answer.text).not.toContain('<script>');
    }
    expect(statuses.slice(0, 10).every((status) => status === 401)).toBe(true);
    expect(statuses.slice(10).every((status) => status === 429)).toBe(true);
  });

  test('goes by its addresses, its machine’s name and the names it was given, and by no other', async () => {
    server = await open({ PAMPERO_NAMES: 'terrain.example, other.example' });
    const authorization = `Bearer ${token}`;
    const address = Object.values(networkInterfaces())
      .flat()
      .find((each) => each?.family === 'IPv4')!.address;
    for (const host of [address, hostname(), 'terrain.example:4600', 'OTHER.example'])
      expect((await ask('/api/jobs', { headers: { host, authorization } })).status, host).toBe(200);
    expect((await ask('/api/jobs', { headers: { host: 'evil.example', authorization } })).status).toBe(421);
  });
});

describe('a server that is pestered', () => {
  test('500 half-open connections and 500 event streams do not stop others', async () => {
    server = await spawnedServer();
    const { id } = await server.api.newJob('Busy');
    const { port } = new URL(server.url);
    const sockets: Socket[] = [];
    const opened = (text: string): Promise<void> =>
      new Promise((resolve, reject) => {
        const socket = connect(Number(port), '127.0.0.1', () => {
          socket.write(text);
          resolve();
        });
        socket.on('error', reject);
        socket.on('data', () => undefined);
        sockets.push(socket);
      });
    for (let k = 0; k < 500; k++) {
      await opened(
        'POST /api/jobs HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{"na',
      );
      await opened(`GET /api/jobs/${id}/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n`);
    }
    const begun = performance.now();
    await server.api.newJob('Through');
    expect((await server.api.call('listJobs', '/jobs')).map(({ name }) => name)).toContain('Through');
    expect(performance.now() - begun).toBeLessThan(5000);
    for (const socket of sockets) socket.destroy();
    // Streams that nobody reads any more are let go.
    await expect.poll(() => server!.descriptors(), { timeout: 20_000 }).toBeLessThan(150);
  });

  test('JSON of nothing but brackets, or too large, is refused at once and costs no memory', async () => {
    server = await spawnedServer();
    const { id } = await server.api.newJob('Deep');
    const before = await server.megabytes();
    const paths = [
      '/api/jobs',
      `/api/jobs/${id}/pins`,
      `/api/jobs/${id}/operations/set-class`,
      `/api/jobs/${id}/clouds/1/window`,
    ];
    for (const path of paths) {
      const begun = performance.now();
      const deep = await ask(path, { method: 'POST', headers: JSON_TYPE, body: '['.repeat(10_000_000) });
      expect([400, 404], path).toContain(deep.status);
      const large = await ask(path, { method: 'POST', headers: JSON_TYPE, body: `"${'x'.repeat(20_000_000)}"` }).catch(
        () => ({ status: 413 }),
      );
      expect([413, 404], path).toContain(large.status);
      const nested = await ask(path, {
        method: 'POST',
        headers: JSON_TYPE,
        body: `{"a":${'['.repeat(5000)}${']'.repeat(5000)}}`,
      });
      expect([400, 404], path).toContain(nested.status);
      expect(performance.now() - begun).toBeLessThan(5000);
    }
    expect((await server.megabytes()) - before).toBeLessThan(400);
  });
});
