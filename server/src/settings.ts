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
  PAMPERO_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('warn'),
});

export interface Settings {
  /** Folder of the job files. */
  readonly data: string;
  readonly port: number;
  readonly host: string;
  /** Threads for heavy work. */
  readonly workers: number;
  readonly log: 'silent' | 'error' | 'warn' | 'info' | 'debug';
}

/** @throws Error naming each setting that is wrong */
export function readSettings(environment: Record<string, string | undefined>): Settings {
  const parsed = settingsSchema.safeParse(environment);
  if (!parsed.success) {
    const lines = parsed.error.issues.map((issue) => `  ${issue.path.join('.')}: ${issue.message}`);
    throw new Error(`Some settings in the environment are wrong:\n${lines.join('\n')}`);
  }
  const { PAMPERO_DATA, PAMPERO_PORT, PAMPERO_HOST, PAMPERO_WORKERS, PAMPERO_LOG } = parsed.data;
  return { data: PAMPERO_DATA, port: PAMPERO_PORT, host: PAMPERO_HOST, workers: PAMPERO_WORKERS, log: PAMPERO_LOG };
}

/** Where uploads and downloads are put together; emptied at start. */
export function scratchFolder(settings: Settings): string {
  return resolve(settings.data, 'scratch');
}
