import { createHmac, randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Share } from '@pampero/contract';
import { z } from 'zod';
import { notFound } from '../errors/job-error.js';

const derive = promisify<string, Buffer, number, Buffer>(scrypt);
/** 192 bits: nobody finds one by trying. */
const ID_BYTES = 24;
const ID = /^[A-Za-z0-9_-]{32}$/;
const DAY_MS = 24 * 3600 * 1000;

const keptSchema = z.strictObject({
  jobId: z.string(),
  title: z.string(),
  madeAt: z.string(),
  until: z.string(),
  /** Of the password, with its salt. */
  lock: z.strictObject({ salt: z.string(), hash: z.string() }).optional(),
});
type Kept = z.output<typeof keptSchema>;

/** Pages that are shared by a link: a file each, written once, beside a note of when it ends. The job itself is never asked. */
export class ShareStore {
  constructor(private readonly folder: string) {}

  /** @param write - writes the page to the path it is given */
  async add(
    facts: {
      readonly jobId: string;
      readonly title: string;
      readonly days: number;
      readonly password?: string | undefined;
    },
    write: (path: string) => Promise<void>,
  ): Promise<Share> {
    await mkdir(this.folder, { recursive: true });
    const id = randomBytes(ID_BYTES).toString('base64url');
    const now = Date.now();
    const kept: Kept = {
      jobId: facts.jobId,
      title: facts.title,
      madeAt: new Date(now).toISOString(),
      until: new Date(now + facts.days * DAY_MS).toISOString(),
      ...(facts.password !== undefined && { lock: await locked(facts.password) }),
    };
    try {
      await write(this.page(id));
      // The note comes last, whole: without it there is no link.
      await writeFile(`${this.note(id)}.part`, JSON.stringify(kept));
      await rename(`${this.note(id)}.part`, this.note(id));
    } catch (error) {
      await this.discard(id);
      throw error;
    }
    return this.told(id, kept);
  }

  /** The links of a job, the newest first. */
  async list(jobId: string): Promise<Share[]> {
    const shares: Share[] = [];
    for (const id of await this.ids()) {
      const kept = await this.read(id);
      if (kept?.jobId === jobId) shares.push(await this.told(id, kept));
    }
    return shares.sort((a, b) => b.madeAt.localeCompare(a.madeAt));
  }

  async end(jobId: string, id: string): Promise<void> {
    if ((await this.read(id))?.jobId !== jobId) throw notFound('link', id);
    await this.discard(id);
  }

  /** Takes back every link of a job that is removed. */
  async endAll(jobId: string): Promise<void> {
    for (const { id } of await this.list(jobId)) await this.discard(id);
  }

  /** What is behind a link: nothing, or a page that a password may be asked for. Ended ones lose their page. */
  async open(id: string): Promise<OpenedShare | undefined> {
    const kept = ID.test(id) ? await this.read(id) : undefined;
    if (!kept) return undefined;
    if (hasEnded(kept)) {
      await rm(this.page(id), { force: true });
      return { state: 'ended', title: kept.title };
    }
    const { lock, title } = kept;
    const path = this.page(id);
    if (!lock) return { state: 'open', title, path };
    return {
      state: 'locked',
      title,
      path,
      key: createHmac('sha256', lock.hash).update(id).digest('base64url'),
      fits: async (password) =>
        timingSafeEqual(await derive(password, Buffer.from(lock.salt, 'base64'), 32), Buffer.from(lock.hash, 'base64')),
    };
  }

  private async ids(): Promise<string[]> {
    const names = await readdir(this.folder).catch(() => []);
    return names.filter((name) => name.endsWith('.json')).map((name) => name.slice(0, -'.json'.length));
  }

  private async read(id: string): Promise<Kept | undefined> {
    const text = await readFile(this.note(id), 'utf8').catch(() => undefined);
    try {
      return text === undefined ? undefined : keptSchema.parse(JSON.parse(text));
    } catch {
      return undefined; // damaged: as if it were not there
    }
  }

  private async told(id: string, kept: Kept): Promise<Share> {
    const { title, madeAt, until, lock } = kept;
    return {
      id,
      title,
      address: `/shared/${id}`,
      madeAt,
      until,
      hasEnded: hasEnded(kept),
      hasPassword: lock !== undefined,
      bytes: (await stat(this.page(id)).catch(() => undefined))?.size ?? 0,
    };
  }

  private async discard(id: string): Promise<void> {
    for (const path of [this.note(id), `${this.note(id)}.part`, this.page(id)]) await rm(path, { force: true });
  }

  private page(id: string): string {
    return join(this.folder, `${id}.html`);
  }

  private note(id: string): string {
    return join(this.folder, `${id}.json`);
  }
}

export type OpenedShare =
  | { readonly state: 'ended'; readonly title: string }
  | { readonly state: 'open'; readonly title: string; readonly path: string }
  | {
      readonly state: 'locked';
      readonly title: string;
      readonly path: string;
      /** What a browser keeps once the password was given. */
      readonly key: string;
      readonly fits: (password: string) => Promise<boolean>;
    };

const hasEnded = ({ until }: Kept): boolean => Date.parse(until) <= Date.now();

async function locked(password: string): Promise<{ salt: string; hash: string }> {
  const salt = randomBytes(16);
  return { salt: salt.toString('base64'), hash: (await derive(password, salt, 32)).toString('base64') };
}
