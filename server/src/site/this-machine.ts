import { randomBytes } from 'node:crypto';
import { mkdir, readFile } from 'node:fs/promises';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { z } from 'zod';
import { writeWhole } from '../files/write-whole.js';

const machineSchema = z.object({ name: z.string(), host: z.string(), pid: z.int() });
/** A machine among those that share a site. */
export type Machine = z.infer<typeof machineSchema>;

const pathIn = (jobs: string): string => join(jobs, 'machine.json');

/** Who worked with a folder of jobs last; undefined where nobody did. */
export async function machineIn(jobs: string): Promise<Machine | undefined> {
  const text = await readFile(pathIn(jobs), 'utf8').catch(() => undefined);
  return text === undefined ? undefined : machineSchema.safeParse(JSON.parse(text)).data;
}

/** Puts this process down as the one that works with a folder of jobs. Its name stays, so that it knows its squares again. */
export async function becomeMachine(jobs: string, before: Machine | undefined): Promise<Machine> {
  await mkdir(jobs, { recursive: true });
  const name = before?.name ?? `${hostname()}-${randomBytes(3).toString('hex')}`;
  const machine = { name, host: hostname(), pid: process.pid };
  await writeWhole(pathIn(jobs), JSON.stringify(machine));
  return machine;
}

/** Whether the process that worked with a folder of jobs still does; undefined where that cannot be told from here. */
export async function stillWorks({ host, pid }: Machine): Promise<boolean | undefined> {
  if (host !== hostname()) return undefined;
  if (pid === process.pid) return false;
  try {
    process.kill(pid, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ESRCH' ? false : undefined;
  }
  // Numbers of processes come again: it is one of ours only where it was called so.
  const called = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => undefined);
  return called?.split('\u0000').includes('site');
}
