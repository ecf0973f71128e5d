import { mkdir, readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { randomBytes } from 'node:crypto';
import { readRunSheet, type KeptSheet, type RunSheet } from '@pampero/contract';
import { JobError, notFound } from '../errors/job-error.js';
import { writeWhole } from '../files/write-whole.js';
import { checkedSheet } from './sheet-runner.js';
import { shippedSheets } from './shipped.js';

const ENDING = '.json';
/** No run sheet is longer than this; what is, is something else. */
const MOST_BYTES = 2_000_000;

/** The run sheets of this server: a JSON file each, beside the jobs, and those that came with Pampero. */
export class SheetLibrary {
  constructor(private readonly folder: string) {}

  async list(): Promise<{ sheets: KeptSheet[]; unreadable: { fileName: string; what: string }[] }> {
    const names = await readdir(this.folder).catch(() => []);
    const sheets = shipped();
    const unreadable: { fileName: string; what: string }[] = [];
    for (const name of names.filter((each) => each.endsWith(ENDING)).sort()) {
      try {
        sheets.push(await this.load(name.slice(0, -ENDING.length)));
      } catch (error) {
        unreadable.push({ fileName: name, what: (error as Error).message });
      }
    }
    return { sheets, unreadable };
  }

  async read(id: string): Promise<KeptSheet> {
    return shipped().find((sheet) => sheet.id === id) ?? (await this.load(id));
  }

  async add(given: unknown): Promise<KeptSheet> {
    const sheet = checkedSheet(given);
    const stem =
      sheet.name
        .normalize('NFD')
        .replace(/\p{M}/gu, '')
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')
        .slice(0, 50) || 'sheet';
    const id = `${stem}-${randomBytes(2).toString('hex')}`;
    await this.store(id, sheet);
    return this.load(id);
  }

  async change(id: string, given: unknown): Promise<KeptSheet> {
    if (shipped().some((sheet) => sheet.id === id))
      throw new JobError('bad-request', {
        what: 'This run sheet came with Pampero and stays as it is.',
        fix: 'Keep yours as a new one.',
      });
    await this.load(id);
    await this.store(id, checkedSheet(given));
    return this.load(id);
  }

  async remove(id: string): Promise<void> {
    await stat(this.path(id)).catch(() => {
      throw notFound('run sheet', id);
    });
    await rm(this.path(id));
  }

  private async load(id: string): Promise<KeptSheet> {
    const facts = await stat(this.path(id)).catch(() => {
      throw notFound('run sheet', id);
    });
    if (facts.size > MOST_BYTES) throw new Error('It is too long to be a run sheet.');
    let json: unknown;
    try {
      json = JSON.parse(await readFile(this.path(id), 'utf8'));
    } catch {
      throw new Error('It is not JSON.');
    }
    const read = readRunSheet(json);
    if (!('sheet' in read)) throw new Error(read.faults.map(({ at, message }) => `${at}: ${message}`).join(' '));
    return { id, isShipped: false, changedAt: facts.mtime.toISOString(), sheet: read.sheet };
  }

  /** Written aside and moved into place, so that a kill leaves the one before. */
  private async store(id: string, sheet: RunSheet): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    await writeWhole(this.path(id), `${JSON.stringify(sheet, undefined, 2)}\n`);
  }

  private path(id: string): string {
    return join(this.folder, id + ENDING);
  }
}

function shipped(): KeptSheet[] {
  return Object.entries(shippedSheets).map(([id, sheet]) => ({ id, isShipped: true, sheet: checkedSheet(sheet) }));
}
