import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createServer, type AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { newPointBatch } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { lasBytes } from '../server.fixture.js';
import { spawnedServer, type SpawnedServer } from '../spawned-server.fixture.js';

const command = fileURLToPath(new URL('../../dist/command/main.js', import.meta.url));
const PASSWORD = 'a word between machines';

function hasRedis(): boolean {
  try {
    execFileSync('redis-server', ['--version']);
    return true;
  } catch {
    console.warn('There is no redis-server here: work on several machines is not tested.');
    return false;
  }
}

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

/** Land with a few false points high over it, enough of it for several tiles. */
async function broadLand(): Promise<Uint8Array> {
  const random = seededRandom(17);
  const count = 2_800_000;
  const points = newPointBatch(count, {
    gpsTime: true,
    rgb: false,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  for (let i = 0; i < count; i++) {
    points.x[i] = Math.round(1000 * 1000 * random());
    points.y[i] = Math.round(1000 * 700 * random());
    points.z[i] = Math.round(1000 * (20 + 0.02 * random() + (i % 40_000 === 0 ? 30 + 50 * random() : 0)));
    points.returns[i] = 0x11;
    points.classification[i] = 1;
  }
  return lasBytes(points);
}

/** A machine that helps: the command as it is typed. */
class HelperProcess {
  private constructor(
    readonly child: ChildProcess,
    readonly printed: () => string,
  ) {}

  static async start(server: string, queue: string): Promise<HelperProcess> {
    const args = [command, 'work', '--server', server, '--threads', '1'];
    const child = spawn(process.execPath, args, { env: { ...process.env, PAMPERO_QUEUE: queue } });
    let printed = '';
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (chunk: Buffer) => void (printed += chunk.toString()));
    const helper = new HelperProcess(child, () => printed);
    await expect.poll(() => printed, { timeout: 30_000 }).toMatch(/Working for/);
    return helper;
  }

  async end(signal: NodeJS.Signals): Promise<void> {
    if (this.child.exitCode !== null || this.child.signalCode !== null) return;
    const ended = new Promise((resolve) => this.child.once('exit', resolve));
    this.child.kill(signal);
    await ended;
  }
}

describe.skipIf(!hasRedis())('tasks on other machines', { timeout: 240_000 }, () => {
  let redis: ChildProcess;
  let queue: string;
  let server: SpawnedServer;
  let jobId: string;
  let clouds: number[];
  /** The cloud's classes as one thread here gives them. */
  let alone: string;
  const helpers: HelperProcess[] = [];

  const help = async (): Promise<HelperProcess> => {
    const helper = await HelperProcess.start(server.url, queue);
    helpers.push(helper);
    return helper;
  };
  const begin = () =>
    server.api.call('startOperation', `/jobs/${jobId}/operations/find-isolated`, {
      body: { clouds, radius: 2.5, leastNeighbours: 4 },
    });
  const classesAfter = async (run: Awaited<ReturnType<typeof begin>>): Promise<string> => {
    let now = run;
    while (now.state === 'queued' || now.state === 'running') {
      await new Promise((resolve) => setTimeout(resolve, 100));
      now = await server.api.call('readRun', `/jobs/${jobId}/runs/${run.id}`);
    }
    expect(now.state, JSON.stringify(now)).toBe('done');
    const sum = createHash('sha256');
    const { nodes } = await server.api.call('listNodes', `/jobs/${jobId}/clouds/${clouds[0]}/nodes`);
    for (const { id } of nodes) sum.update((await server.api.raw(`/jobs/${jobId}/nodes/${id}/class`)).body);
    await server.api.undo(jobId);
    return sum.digest('hex');
  };

  beforeAll(async () => {
    const port = await freePort();
    redis = spawn('redis-server', [
      ...['--port', `${port}`, '--bind', '127.0.0.1', '--save', '', '--appendonly', 'no'],
      ...['--requirepass', PASSWORD],
    ]);
    queue = `redis://:${encodeURIComponent(PASSWORD)}@127.0.0.1:${port}`;
    server = await spawnedServer({ PAMPERO_QUEUE: queue, PAMPERO_WORKERS: '1' });
    jobId = (await server.api.newJob('Away')).id;
    const run = await server.api.import(jobId, await broadLand());
    clouds = [run.productId!];
    alone = await classesAfter(await begin());
  }, 120_000);
  afterAll(async () => {
    for (const helper of helpers) await helper.end('SIGKILL');
    await server?.stop();
    redis?.kill('SIGKILL');
  });

  test('give the same classes, and some of them are done there', async () => {
    const helper = await help();
    expect(await classesAfter(await begin())).toBe(alone);
    await helper.end('SIGTERM');
    expect(Number(/(\d+) tasks done/.exec(helper.printed())?.[1])).toBeGreaterThan(0);
  });

  test('are done by others where a machine is killed in the middle, with the same result', async () => {
    const [first] = [await help(), await help()];
    const run = await begin();
    await new Promise((resolve) => setTimeout(resolve, 700));
    await first.end('SIGKILL');
    expect(await classesAfter(run)).toBe(alone);
  });

  test('go on after the queue was gone for a while', async () => {
    const run = await begin();
    redis.kill('SIGSTOP');
    await new Promise((resolve) => setTimeout(resolve, 4000));
    redis.kill('SIGCONT');
    expect(await classesAfter(run)).toBe(alone);
  });

  test('end when they are cancelled, and leave nothing behind', async () => {
    const run = await begin();
    await new Promise((resolve) => setTimeout(resolve, 500));
    await server.api.call('cancelRun', `/jobs/${jobId}/runs/${run.id}`);
    expect((await server.api.ended(jobId, run)).state).toBe('cancelled');
    expect(await classesAfter(await begin())).toBe(alone);
  });

  test('a machine with another version is refused with the reason', async () => {
    const answer = await fetch(`${server.url}/work/hello`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ id: crypto.randomUUID(), threads: 2, code: 'of last year' }),
    });
    expect(answer.status).toBe(400);
    expect(await answer.text()).toMatch(/another version of Pampero than the server/);
  });

  test('without a password a queue beyond this machine is not used', () => {
    expect(() =>
      execFileSync(process.execPath, [command, 'work', '--server', server.url, '--queue', 'redis://10.1.2.3'], {
        stdio: 'pipe',
      }),
    ).toThrow(/has no password/);
  });
});
