import { spawn } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { becomeMachine, machineIn, stillWorks } from './this-machine.js';

test('a folder of jobs keeps the name of its machine', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'pampero-machine-'));
  try {
    const jobs = join(folder, 'jobs');
    expect(await machineIn(jobs)).toBeUndefined();
    const first = await becomeMachine(jobs, undefined);
    expect(first.name).toContain(hostname());
    const again = await becomeMachine(jobs, await machineIn(jobs));
    expect(again.name).toBe(first.name);
    expect((await becomeMachine(join(folder, 'other'), undefined)).name).not.toBe(first.name);
  } finally {
    await rm(folder, { recursive: true });
  }
});

test('a command that still works is known by its process; one on another host cannot be judged from here', async () => {
  const host = hostname();
  const living = spawn(process.execPath, ['-e', 'setTimeout(() => {}, 60000)', 'site']);
  const other = spawn(process.execPath, ['-e', 'setTimeout(() => {}, 60000)', 'serve']);
  try {
    expect(await stillWorks({ name: 'a', host, pid: living.pid! })).toBe(true);
    expect(await stillWorks({ name: 'a', host, pid: other.pid! })).toBe(false);
    expect(await stillWorks({ name: 'a', host, pid: process.pid })).toBe(false);
    expect(await stillWorks({ name: 'a', host: 'elsewhere.example', pid: living.pid! })).toBeUndefined();
    const gone = new Promise((done) => living.once('exit', done));
    living.kill('SIGKILL');
    await gone;
    expect(await stillWorks({ name: 'a', host, pid: living.pid! })).toBe(false);
  } finally {
    living.kill('SIGKILL');
    other.kill('SIGKILL');
  }
});
