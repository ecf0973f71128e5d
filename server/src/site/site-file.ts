import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { writeWhole } from '../files/write-whole.js';

const squareSchema = z.strictObject({
  name: z.string(),
  column: z.int(),
  row: z.int(),
  own: z.int(),
  margin: z.int(),
  /** Files of its points, by name. */
  files: z.array(z.string()),
});
export type SiteSquare = z.infer<typeof squareSchema>;

const siteSchema = z.strictObject({
  version: z.literal(1),
  side: z.number(),
  margin: z.number(),
  /** What it was divided from: path, bytes, time of the last change. */
  files: z.array(z.tuple([z.string(), z.number(), z.number()])),
  epsg: z.int().optional(),
  /** Sums over the run sheet with what it is given, and over the code that computes: all squares go by the same. */
  work: z.string().optional(),
  code: z.string().optional(),
  /** Missing while the files are being divided. */
  squares: z.array(squareSchema).optional(),
});
/** A site as it is kept in its folder, so that work that was cut off goes on. */
export type SiteFile = z.infer<typeof siteSchema>;

/** A site whose files are divided. */
export type DividedSite = SiteFile & { readonly squares: readonly SiteSquare[] };

const pathIn = (folder: string): string => join(folder, 'site.json');

/** What is kept in a folder; undefined where nothing is. @throws Error where it cannot be read */
export async function readSite(folder: string): Promise<SiteFile | undefined> {
  const text = await readFile(pathIn(folder), 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return undefined;
    throw error;
  });
  return text === undefined ? undefined : siteSchema.parse(JSON.parse(text));
}

/** Written aside and moved into place whole. */
export async function writeSite(folder: string, site: SiteFile): Promise<void> {
  await writeWhole(pathIn(folder), JSON.stringify(site, undefined, 1));
}
