import { createServer, type Server } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import express from 'express';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { endSilentBodies, readJson } from './bodies.js';

const SILENT_MS = 300;
let server: Server;
let port: number;

beforeEach(async () => {
  const app = express();
  app.use(endSilentBodies(SILENT_MS));
  app.post('/', readJson, (_request, response) => void setTimeout(() => response.send('whole'), 2 * SILENT_MS));
  server = createServer(app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  ({ port } = server.address() as AddressInfo);
});

afterEach(() => new Promise<void>((resolve) => void server.close(() => resolve())));

/** Sends the pieces one after the other, the given time apart, and waits until the other side ends the connection or answers. */
function send(pieces: readonly string[], apartMs: number): Promise<{ readonly text: string; readonly tookMs: number }> {
  const started = performance.now();
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    let text = '';
    const left = [...pieces];
    const going = setInterval(() => {
      const piece = left.shift();
      if (piece !== undefined) socket.write(piece);
    }, apartMs);
    const ended = (): void => {
      clearInterval(going);
      socket.destroy();
      resolve({ text, tookMs: performance.now() - started });
    };
    socket.on('data', (bytes) => {
      text += bytes.toString();
      if (text.includes('whole')) ended();
    });
    socket.on('close', ended);
    socket.on('error', ended);
  });
}

const head = (length: number): string =>
  `POST / HTTP/1.1\r\nHost: here\r\nContent-Type: application/json\r\nContent-Length: ${length}\r\n\r\n`;

test('a body that stops half-way is given up after the time of silence, not before', async () => {
  const { text, tookMs } = await send([head(20), '{"half":'], 20);
  expect(text).not.toContain('whole');
  expect(tookMs).toBeGreaterThan(SILENT_MS);
  expect(tookMs).toBeLessThan(10 * SILENT_MS);
});

test('a slow body that goes on is waited for, and a slow answer to a whole one is no silence', async () => {
  const body = '{"slow":"but whole"}';
  const pieces = [head(body.length), ...body.match(/.{1,5}/g)!];
  const { text, tookMs } = await send(pieces, SILENT_MS / 2);
  expect(text).toContain('whole');
  expect(tookMs).toBeGreaterThan(2 * SILENT_MS);
});
