import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  endpoints,
  type EndpointId,
  type Job,
  type OperationId,
  type ProductKindId,
  type ProductOf,
  type Run,
  type Workbench,
} from '@pampero/contract';
import { newPointBatch, type PointBatch } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import { expect } from 'vitest';
import type { z } from 'zod';
import type { Settings } from './settings.js';
import { startServer, type RunningServer } from './server.js';

export interface TestServer {
  readonly server: RunningServer;
  readonly data: string;
  readonly api: ApiClient;
  stop(): Promise<void>;
}

/** A server of its own over an empty folder. */
export async function testServer(own: Pick<Settings, 'folder' | 'drawings'> = {}): Promise<TestServer> {
  const data = await mkdtemp(join(tmpdir(), 'pampero-server-'));
  const server = await startServer({
    data,
    port: 0,
    host: '127.0.0.1',
    workers: 2,
    memory: 1500,
    ...own,
    log: (process.env['PAMPERO_TEST_LOG'] ?? 'silent') as 'silent',
  });
  return {
    server,
    data,
    api: new ApiClient(server.url),
    async stop() {
      await server.close();
      await rm(data, { recursive: true, force: true });
    },
  };
}

/** Calls the API as a script would and holds every answer against the contract. */
export class ApiClient {
  constructor(readonly url: string) {}

  async call<K extends EndpointId>(
    id: K,
    path: string,
    { body, query = '' }: { body?: unknown; query?: string } = {},
  ): Promise<(typeof endpoints)[K] extends { response: infer S extends z.ZodType } ? z.output<S> : undefined> {
    const endpoint = endpoints[id] as (typeof endpoints)[K] & { response?: z.ZodType };
    const isBytes = body instanceof Uint8Array;
    const response = await fetch(`${this.url}/api${path}${query}`, {
      method: endpoint.method.toUpperCase(),
      ...(body !== undefined && {
        body: isBytes ? Buffer.from(body) : JSON.stringify(body),
        headers: { 'content-type': isBytes ? 'application/octet-stream' : 'application/json' },
      }),
    });
    const text = await response.text();
    expect(response.status, text).toBe(endpoint.status);
    return (endpoint.response ? endpoint.response.parse(JSON.parse(text)) : undefined) as never;
  }

  async raw(
    path: string,
    init: RequestInit = {},
  ): Promise<{ status: number; type: string; body: Uint8Array; json: () => Record<string, unknown> }> {
    const response = await fetch(`${this.url}/api${path}`, init);
    const body = new Uint8Array(await response.arrayBuffer());
    return {
      status: response.status,
      type: response.headers.get('content-type') ?? '',
      body,
      json: () => JSON.parse(Buffer.from(body).toString()) as Record<string, unknown>,
    };
  }

  newJob(name = 'Test reach', extra: Record<string, unknown> = { epsg: 5347 }): Promise<Job> {
    return this.call('createJob', '/jobs', { body: { name, ...extra } });
  }

  read(jobId: string): Promise<Workbench> {
    return this.call('readJob', `/jobs/${jobId}`);
  }

  /** Products of a kind, in the order of the graph. */
  async made<K extends ProductKindId>(jobId: string, kind: K): Promise<ProductOf<K>[]> {
    return (await this.read(jobId)).products.filter((product) => product.kind === kind) as unknown as ProductOf<K>[];
  }

  /** The newest product of a kind. */
  async newest<K extends ProductKindId>(jobId: string, kind: K): Promise<ProductOf<K>> {
    return (await this.made(jobId, kind)).reduce((a, b) => (a.id > b.id ? a : b));
  }

  /** A product as a file. */
  async file(jobId: string, productId: number | undefined, format: string): Promise<Buffer> {
    const { status, body } = await this.raw(`/jobs/${jobId}/products/${productId}/file?format=${format}`);
    expect(status, Buffer.from(body).toString('utf8', 0, 500)).toBe(200);
    return Buffer.from(body);
  }

  /** What the screen shows of a product. */
  async shown(jobId: string, productId: number | undefined, query = ''): Promise<Buffer> {
    const { status, body } = await this.raw(`/jobs/${jobId}/products/${productId}/shown${query}`);
    expect(status).toBe(200);
    return Buffer.from(body);
  }

  /** Builds again what is stale and waits for the end of all of it. */
  async rebuild(jobId: string): Promise<{ runs: Run[]; left: { name: string; because: string }[] }> {
    const { runs, left } = await this.call('rebuildStale', `/jobs/${jobId}/rebuild`);
    const ended: Run[] = [];
    for (const run of runs) ended.push(await this.ended(jobId, run));
    return { runs: ended, left };
  }

  undo(jobId: string): Promise<unknown> {
    return this.call('undo', `/jobs/${jobId}/undo`);
  }

  /** Waits for a run's end. */
  async ended(jobId: string, run: Run): Promise<Run> {
    for (let i = 0; i < 1300; i++) {
      const now = await this.call('readRun', `/jobs/${jobId}/runs/${run.id}`);
      if (now.state !== 'queued' && now.state !== 'running') return now;
      await new Promise((resolve) => setTimeout(resolve, i < 100 ? 4 : 25));
    }
    const last = await this.call('readRun', `/jobs/${jobId}/runs/${run.id}`);
    throw new Error(`${run.title} did not end in 30 s: ${JSON.stringify(last)}`);
  }

  import(
    jobId: string,
    bytes: Uint8Array,
    fileName = 'strip.las',
    parameters: Record<string, unknown> = {},
  ): Promise<Run> {
    return this.fromFile(jobId, 'import-cloud', bytes, fileName, parameters);
  }

  /** Starts an operation with a file as the body of the request, and waits for its end. */
  async fromFile(
    jobId: string,
    operation: OperationId,
    content: Uint8Array | string,
    fileName: string,
    parameters: Record<string, unknown> = {},
  ): Promise<Run> {
    return this.ended(jobId, await this.startFromFile(jobId, operation, content, fileName, parameters));
  }

  startFromFile(
    jobId: string,
    operation: OperationId,
    content: Uint8Array | string,
    fileName: string,
    parameters: Record<string, unknown> = {},
  ): Promise<Run> {
    const query = new URLSearchParams({ fileName, parameters: JSON.stringify(parameters) });
    return this.call('startWithFile', `/jobs/${jobId}/operations/${operation}/file`, {
      body: typeof content === 'string' ? new TextEncoder().encode(content) : content,
      query: `?${query.toString()}`,
    });
  }

  async operate(jobId: string, operation: string, parameters: Record<string, unknown>): Promise<Run> {
    return this.ended(
      jobId,
      await this.call('startOperation', `/jobs/${jobId}/operations/${operation}`, { body: parameters }),
    );
  }
}

export const QUANTISATION = { scale: [0.001, 0.001, 0.001], offset: [5_512_000, 6_150_000, 0] } as const;

/** A 60 x 60 m field at about 30 m, with a flat roof 8 m up in its middle; three points a square metre. */
const COLUMNS = { gpsTime: true, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };

export function fieldWithShed(): PointBatch {
  const count = 10_800;
  const random = seededRandom(12);
  const points = newPointBatch(count, COLUMNS);
  for (let i = 0; i < count; i++) {
    const e = random() * 60;
    const n = random() * 60;
    const isRoof = Math.abs(e - 30) < 5 && Math.abs(n - 30) < 5;
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round((30 + e * 0.02 + n * 0.01 + (isRoof ? 8 : 0) + 0.01 * random()) * 1000);
    points.classification[i] = 1;
    points.returns[i] = 0x11;
    points.intensity[i] = 1000 + (i % 500);
    points.pointSourceId[i] = 1 + (i % 2);
    points.gpsTime![i] = i / 1000;
  }
  return points;
}

/** A deck 8 m wide and 37 m long carries a road over a valley six metres deep; only what a scanner sees from above is there. */
export function valleyWithBridge(): { points: PointBatch; isDeck: (east: number, north: number) => boolean } {
  const count = 48_000;
  const random = seededRandom(31);
  const points = newPointBatch(count, COLUMNS);
  const isDeck = (e: number, n: number): boolean => Math.abs(e - 50) < 18.5 && Math.abs(n - 30) < 4;
  for (let i = 0; i < count; i++) {
    const e = random() * 100;
    const n = random() * 60;
    const valley = 30 - 6 * Math.min(1, Math.max(0, (21 - Math.abs(e - 50)) / 9));
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round(((Math.abs(n - 30) < 4 ? 30 : valley) + 0.03 * random()) * 1000);
    points.classification[i] = 1;
    points.returns[i] = 0x11;
    points.intensity[i] = 1000;
    points.pointSourceId[i] = 1;
    points.gpsTime![i] = i / 1000;
  }
  return { points, isDeck };
}

/** A road and a verge 12 cm over it, along 10 m north: 40 x 20 m, sixteen points a square metre, 4 mm of noise. */
export function kerbedStreet(): PointBatch {
  const count = 12_800;
  const random = seededRandom(5);
  const points = newPointBatch(count, COLUMNS);
  for (let i = 0; i < count; i++) {
    const [e, n] = [random() * 40, random() * 20];
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round(((n > 10 ? 20.12 : 20) + 0.004 * (random() + random() + random() - 1.5)) * 1000);
    points.classification[i] = 2;
    points.returns[i] = 0x11;
    points.intensity[i] = n > 10 ? 900 : 300;
    points.pointSourceId[i] = 1;
    points.gpsTime![i] = i / 1000;
  }
  return points;
}

/** A server with a job that holds one cloud, and a folder for what leaves it. */
export interface TestJob {
  readonly host: TestServer;
  readonly folder: string;
  readonly jobId: string;
  readonly cloudId: number;
  stop(): Promise<void>;
}

export async function testJob(points: PointBatch, own: Pick<Settings, 'drawings'> = {}): Promise<TestJob> {
  const host = await testServer(own);
  const folder = await mkdtemp(join(tmpdir(), 'pampero-job-'));
  const jobId = (await host.api.newJob('Test')).id;
  const cloudId = (await host.api.import(jobId, await lasBytes(points))).productId!;
  const stop = async (): Promise<void> => {
    await host.stop();
    await rm(folder, { recursive: true, force: true });
  };
  return { host, folder, jobId, cloudId, stop };
}

export async function lasBytes(points: PointBatch): Promise<Uint8Array> {
  const sink = bufferSink();
  await writeLas(sink, [points], {
    version: '1.4',
    pointFormat: points.red ? 7 : 6,
    quantisation: QUANTISATION,
    crs: { wkt: 'PROJCS["POSGAR 2007 / Argentina 5",UNIT["metre",1],AUTHORITY["EPSG","5347"]]' },
  });
  return sink.bytes();
}
