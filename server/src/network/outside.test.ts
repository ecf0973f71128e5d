import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, test } from 'vitest';
import { isWithin, Outside } from './outside.js';

const never = new AbortController().signal;
const patient = { patience: 5000, largest: 1e6 };
const open: Server[] = [];
async function serving(listener: RequestListener): Promise<URL> {
  const server = createServer(listener);
  open.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return new URL(`http://127.0.0.1:${(server.address() as AddressInfo).port}/a`);
}
afterEach(() => {
  for (const server of open.splice(0)) {
    server.closeAllConnections();
    server.close();
  }
});
const why = (promise: Promise<unknown>): Promise<string> => promise.then(() => 'answered', (error: { why: string }) => error.why); // prettier-ignore

describe('addresses within a network (RFC 6890, IANA special-purpose registries)', () => {
  test.each(['127.0.0.1', '127.9.9.9', '10.1.2.3', '172.16.0.1', '172.31.255.255', '192.168.1.1', '169.254.169.254', '100.64.0.1', '0.0.0.0', '224.0.0.1', '255.255.255.255', '::1', '::', 'fe80::1', 'fd00::5', '::ffff:10.0.0.1', '64:ff9b::a00:1'])('%s is', (address) => expect(isWithin(address)).toBe(true)); // prettier-ignore
  test.each(['8.8.8.8', '172.32.0.1', '172.15.0.1', '192.169.0.1', '100.128.0.1', '2001:4860:4860::8888', '::ffff:8.8.8.8', 'example.org', ''])('%s is not', (address) => expect(isWithin(address)).toBe(false)); // prettier-ignore
});

describe('a server that others reach', () => {
  test('asks nobody within its network, by number or by name, and says who could allow it', async () => {
    const url = await serving((_, response) => void response.end('secret'));
    const guarded = new Outside([]);
    for (const host of ['127.0.0.1', 'localhost', '[::1]', '0x7f000001', '2130706433']) {
      const to = new URL(url);
      to.host = `${host}:${url.port}`;
      expect(await why(guarded.fetch(to, {}, never, patient)), host).toContain('PAMPERO_OUTSIDE');
    }
    expect(await why(guarded.fetch(new URL('http://169.254.169.254/latest'), {}, never, patient))).toContain('lies within the network'); // prettier-ignore
  });

  test('asks those that it was told it may, by host or by host and port', async () => {
    const url = await serving((_, response) => void response.end('public'));
    for (const allowed of [['127.0.0.1'], [`127.0.0.1:${url.port}`]])
      expect((await new Outside(allowed).fetch(url, {}, never, patient)).text).toBe('public');
    expect(await why(new Outside(['127.0.0.1:1']).fetch(url, {}, never, patient))).toContain('PAMPERO_OUTSIDE');
  });

  test('does not follow where an answer leads within', async () => {
    const within = await serving((_, response) => void response.end('secret'));
    const leading = await serving((_, response) => void response.writeHead(302, { location: within.href }).end());
    const guarded = new Outside([leading.host]);
    expect(await why(guarded.fetch(leading, {}, never, patient))).toContain('lies within the network');
    expect((await new Outside().fetch(leading, {}, never, patient)).text).toBe('secret');
  });
});

describe('who is asked', () => {
  const outside = new Outside();

  test('may lead on a few times, not for ever, and not a file that is sent', async () => {
    let hops = 0;
    const url = await serving((request, response) => {
      hops++;
      if (request.url === '/end') return void response.end('there');
      response.writeHead(307, { location: hops < 4 || request.url === '/round' ? (request.url ?? '') : '/end' }).end();
    });
    expect((await outside.fetch(url, {}, never, patient)).text).toBe('there');
    expect(await why(outside.fetch(new URL('/round', url), {}, never, patient))).toContain('without an end');
    const body = new Blob(['drawing']);
    expect(await why(outside.fetch(url, { method: 'PUT', body }, never, patient))).toContain('points elsewhere');
    const file = await serving((_, response) => void response.writeHead(302, { location: 'file:///etc/hosts' }).end());
    expect(await why(outside.fetch(file, {}, never, patient))).toBe('is no address of the web');
  });

  test('gets a file whole, with its length, and may answer before all of it has come', async () => {
    const url = await serving((request, response) => {
      if (request.url === '/refuse') return void response.writeHead(413, { connection: 'close' }).end('too large');
      let size = 0;
      request.on('data', (part: Buffer) => (size += part.length));
      request.on('end', () => response.writeHead(200).end(`${size} of ${request.headers['content-length']}`));
    });
    const body = new Blob([new Uint8Array(3_000_000)]);
    expect((await outside.fetch(url, { method: 'PUT', body }, never, patient)).text).toBe('3000000 of 3000000');
    const refused = await outside.fetch(new URL('/refuse', url), { method: 'PUT', body }, never, patient).then(({ status }) => status, (error: { why: string }) => error.why); // prettier-ignore
    expect(String(refused)).toMatch(/413|cannot be reached|broke off/);
  });

  test('is given up at the deadline and when the run is cancelled', async () => {
    const url = await serving(() => undefined);
    expect(await why(outside.fetch(url, {}, never, { ...patient, patience: 150 }))).toContain('has not answered in');
    const stop = new AbortController();
    const asked = outside.fetch(url, {}, stop.signal, patient);
    setTimeout(() => stop.abort(), 50);
    await expect(asked).rejects.toThrow();
    await expect(asked.catch((error: Error) => Promise.reject(new Error(error.name)))).rejects.toThrow('AbortError');
  });
});
