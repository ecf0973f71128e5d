import { resolve } from 'node:path';
import { z } from 'zod';

/** Settings come from the environment and from nowhere else; the README lists them. */
const settingsSchema = z.object({
  PAMPERO_DATA: z
    .string()
    .min(1)
    .default('.pampero')
    .transform((path) => resolve(path)),
  PAMPERO_PORT: z.coerce.number().int().min(0).max(65_535).default(4600),
  PAMPERO_HOST: z.string().min(1).default('127.0.0.1'),
  PAMPERO_WORKERS: z.coerce.number().int().min(1).max(64).default(2),
  /** Megabytes that the whole server keeps to, whatever the size of the clouds. */
  PAMPERO_MEMORY: z.coerce.number().int().min(600).max(1_000_000).default(1500),
  /** A folder that clouds may be picked from without sending them. */
  PAMPERO_FOLDER: z
    .string()
    .min(1)
    .optional()
    .transform((path) => (path === undefined ? undefined : resolve(path))),
  /** Whoever uses the server has to give it once; needed where others than this machine reach it, and made up where it is missing. */
  PAMPERO_TOKEN: z.string().min(12, 'A token has 12 letters at least.').max(200).optional(),
  /** Names beside its own by which the server is reached, with commas between. */
  PAMPERO_NAMES: z
    .string()
    .optional()
    .transform((names) => (names ?? '').split(',').flatMap((name) => name.trim() || [])),
  /** Hosts within the network that may be asked for whoever uses a server that others reach, with commas between. */
  PAMPERO_OUTSIDE: z
    .string()
    .optional()
    .transform((names) => (names ?? '').split(',').flatMap((name) => name.trim() || [])),
  /** A folder that a drawing program watches: what is sent to CAD by folder goes there. */
  PAMPERO_DRAWINGS: z
    .string()
    .min(1)
    .optional()
    .transform((path) => (path === undefined ? undefined : resolve(path))),
  /** A queue that other machines take tasks from; without it all is done here. */
  PAMPERO_QUEUE: z.string().min(1).optional(),
  PAMPERO_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('warn'),
});

export interface Settings {
  /** Folder of the job files. */
  readonly data: string;
  readonly port: number;
  readonly host: string;
  /** Threads for heavy work. */
  readonly workers: number;
  /** Megabytes of memory that the whole server keeps to. */
  readonly memory: number;
  /** Folder that clouds may be picked from, if there is one. */
  readonly folder?: string | undefined;
  readonly token?: string | undefined;
  readonly names?: readonly string[];
  readonly outside?: readonly string[];
  /** Folder that a drawing program watches, if there is one. */
  readonly drawings?: string | undefined;
  /** Folder by which several machines that share a large site tell each other the edges of their squares. */
  readonly edges?: string | undefined;
  /** Address of the queue that other machines take tasks from, if there is one. */
  readonly queue?: string | undefined;
  readonly log: 'silent' | 'error' | 'warn' | 'info' | 'debug';
}

/** @throws Error naming each setting that is wrong */
export function readSettings(environment: Record<string, string | undefined>): Settings {
  const parsed = settingsSchema.safeParse(environment);
  if (!parsed.success) {
    const lines = parsed.error.issues.map((issue) => `  ${issue.path.join('.')}: ${issue.message}`);
    throw new Error(`Some settings in the environment are wrong:\n${lines.join('\n')}`);
  }
  const given = parsed.data;
  return {
    data: given.PAMPERO_DATA,
    port: given.PAMPERO_PORT,
    host: given.PAMPERO_HOST,
    workers: given.PAMPERO_WORKERS,
    memory: given.PAMPERO_MEMORY,
    folder: given.PAMPERO_FOLDER,
    token: given.PAMPERO_TOKEN,
    names: given.PAMPERO_NAMES,
    outside: given.PAMPERO_OUTSIDE,
    drawings: given.PAMPERO_DRAWINGS,
    queue: given.PAMPERO_QUEUE,
    log: given.PAMPERO_LOG,
  };
}

/** Where uploads and downloads are put together; emptied at start. */
export function scratchFolder(settings: Settings): string {
  return resolve(settings.data, 'scratch');
}

/** Uploads that are under way; kept across restarts, since they can be gone on with. */
export function uploadsFolder(settings: Settings): string {
  return resolve(settings.data, 'uploads');
}

/** Pages that are shared by a link. */
export function sharesFolder(settings: Settings): string {
  return resolve(settings.data, 'shares');
}

/** Run sheets of this server. */
export function sheetsFolder(settings: Settings): string {
  return resolve(settings.data, 'run-sheets');
}

/** Files that lay among the jobs and could not be opened. */
export function asideFolder(settings: Settings): string {
  return resolve(settings.data, 'aside');
}

/** Geoid grids the surveyor has put there. */
export function geoidsFolder(settings: Settings): string {
  return resolve(settings.data, 'geoids');
}
