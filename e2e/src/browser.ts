import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer, type RunningServer } from '@pampero/server';
import { chromium, type Browser, type Page } from 'playwright-core';

/** Debian's Chromium with WebGL in software: the same on a machine with no screen and no graphics card. */
const ARGUMENTS = [
  '--no-sandbox',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--ignore-gpu-blocklist',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

export interface Bench {
  server: RunningServer;
  readonly data: string;
  readonly browser: Browser;
  readonly page: Page;
  /** Addresses asked for outside the server, and errors of the page. */
  readonly strayRequests: string[];
  readonly errors: string[];
  stop(): Promise<void>;
}

/** A server over an empty folder and a page of 1280 x 800. */
export async function openBench({
  folder,
  token,
  drawings,
}: { folder?: string; token?: string; drawings?: string } = {}): Promise<Bench> {
  const data = await mkdtemp(join(tmpdir(), 'pampero-e2e-'));
  const server = await startServer({
    data,
    port: 0,
    host: '127.0.0.1',
    workers: 2,
    memory: 1500,
    folder,
    token,
    drawings,
    log: 'silent',
  });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ARGUMENTS });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
  const page = await context.newPage();
  const strayRequests: string[] = [];
  const errors: string[] = [];
  context.on('request', (request) => {
    if (!request.url().startsWith(server.url) && !/^(data|blob):/.test(request.url()))
      strayRequests.push(request.url());
  });
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') errors.push(message.text());
  });
  const bench: Bench = {
    server,
    data,
    browser,
    page,
    strayRequests,
    errors,
    async stop() {
      await browser.close();
      await bench.server.close();
      await rm(data, { recursive: true, force: true });
    },
  };
  return bench;
}
