import { copyFile, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { PamperoError } from '@pampero/core/task';
import { jsonIn } from '../network/outside.js';
import { isThere } from './is-there.js';
import { refusalSchema, refusedDrawing, understoodSchema, type Understood } from './understood.js';

/** How a drawing program names its answer about a file: it lies beside it. */
export const ANSWER = '.read.json';
/** Beside a file that someone has open. */
export const LOCK = '.lock';
const [PATIENCE_MS, LOOK_EVERY_MS] = [120_000, 200];

/**
 * Puts a file into the folder that a drawing program watches, whole or not at all, and waits for what the program lays beside it.
 * @throws PamperoError `cad-folder-gone`, `cad-in-use`, `cad-silent`, `cad-refuses` with the program's words, `cad-rubbish`
 */
export async function putInFolder(
  folder: string,
  fileName: string,
  path: string,
  signal: AbortSignal,
  patience = PATIENCE_MS,
): Promise<Understood> {
  const [target, answer] = [join(folder, fileName), join(folder, fileName + ANSWER)];
  if (!(await isThere(folder)))
    throw new PamperoError('cad-folder-gone', {
      what: 'The folder that the drawing program watches is not there.',
      fix: 'Make it or connect its drive, then send again. Whoever runs Pampero sets it with PAMPERO_DRAWINGS.',
    });
  if (await isThere(target + LOCK))
    throw new PamperoError('cad-in-use', {
      what: `${fileName} is open in a drawing.`,
      fix: 'Close it there, and send it again.',
    });
  await rm(answer, { force: true });
  try {
    await copyFile(path, `${target}.part`);
    await rename(`${target}.part`, target);
  } catch (error) {
    await rm(`${target}.part`, { force: true });
    throw new PamperoError('cad-refuses', {
      what: `${fileName} cannot be written into the folder of the drawing program: ${reasonOf(error)}.`,
      fix: 'Put that right there, and send it again.',
    });
  }
  const text = await told(answer, signal, patience);
  if (text === undefined)
    throw new PamperoError('cad-silent', {
      what: `No program has read ${fileName} in ${Math.round(patience / 1000)} s. The file lies in the folder.`,
      fix: 'Check that the drawing program runs and watches that folder, and send it again.',
    });
  const json = jsonIn(text);
  const refusal = refusalSchema.safeParse(json);
  if (refusal.success) throw refusedDrawing(fileName, refusal.data.error);
  const understood = understoodSchema.safeParse(json);
  if (!understood.success)
    throw new PamperoError('cad-rubbish', {
      what: `What the drawing program laid beside ${fileName} does not say what it understood.`,
      fix: 'Check the settings of the drawing program.',
    });
  return understood.data;
}

/** The answer once it is there and whole; undefined where it does not come. */
async function told(answer: string, signal: AbortSignal, patience: number): Promise<string | undefined> {
  const until = Date.now() + patience;
  for (;;) {
    if (await isThere(answer)) {
      const text = await readFile(answer, 'utf8').catch(() => '');
      // A program that does not rename may be in the middle of writing it.
      if (jsonIn(text) !== undefined || Date.now() >= until) return text;
    }
    if (Date.now() >= until) return undefined;
    await wait(LOOK_EVERY_MS, undefined, { signal });
  }
}

const REASONS: Readonly<Record<string, string>> = {
  ENOSPC: 'its disk is full',
  EACCES: 'it may not be written to',
  EPERM: 'it may not be written to',
  EROFS: 'it may not be written to',
  EISDIR: 'a folder of that name is there',
};
const reasonOf = (error: unknown): string => REASONS[(error as { code?: string }).code ?? ''] ?? 'it did not work';
