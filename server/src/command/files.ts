import { stat } from 'node:fs/promises';
import { Misuse } from './exit-codes.js';

/** The path, if something is there. @throws Misuse */
export async function existing(path: string): Promise<string> {
  await stat(path).catch(() => {
    throw new Misuse(`There is no file ${path}.`);
  });
  return path;
}
