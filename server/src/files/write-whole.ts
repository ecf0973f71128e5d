import { randomBytes } from 'node:crypto';
import { rename, writeFile } from 'node:fs/promises';

/** Writes a file aside and moves it into place whole; where several do it, the last stays. */
export async function writeWhole(path: string, content: string | Uint8Array): Promise<void> {
  const aside = `${path}.${randomBytes(4).toString('hex')}.part`;
  await writeFile(aside, content);
  await rename(aside, path);
}
