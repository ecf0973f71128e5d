import { readdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PamperoError } from '@pampero/core/task';
import { ANSWER } from './drawing-folder.js';
import { isThere } from './is-there.js';
import { readDrawing } from './read-drawing.js';

/**
 * A small stand-in of a drawing office's program that watches a folder: reads each DXF and LandXML file that comes or changes, and lays beside it
 * what it understood of it, or why it did not take it.
 * @returns ends it
 */
export function watchFolder(folder: string, everyMs = 500): () => void {
  const seen = new Map<string, number>();
  let isLooking = false;
  const timer = setInterval(() => {
    if (isLooking) return;
    isLooking = true;
    void look(folder, seen)
      .catch(() => undefined)
      .finally(() => (isLooking = false));
  }, everyMs);
  timer.unref();
  return () => clearInterval(timer);
}

async function look(folder: string, seen: Map<string, number>): Promise<void> {
  for (const name of await readdir(folder)) {
    if (!/\.(dxf|xml)$/i.test(name)) continue;
    const path = join(folder, name);
    const { mtimeMs } = await stat(path);
    if (seen.get(name) === mtimeMs && (await isThere(path + ANSWER))) continue;
    const answer = await understoodOf(path, name);
    await writeFile(`${path}${ANSWER}.part`, JSON.stringify(answer));
    await rename(`${path}${ANSWER}.part`, path + ANSWER);
    seen.set(name, mtimeMs);
  }
}

async function understoodOf(path: string, name: string): Promise<unknown> {
  try {
    return readDrawing(await readFile(path, 'utf8'), name);
  } catch (error) {
    return { error: error instanceof PamperoError ? error.message : 'The drawing cannot be read.' };
  }
}
