import { createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { FormatError } from '@pampero/core/formats';
import yauzl, { type ZipFile } from 'yauzl';

export interface UnpackTask {
  readonly path: string;
  readonly fileName: string;
  readonly folder: string;
}

/** A file by the name it had, without folders, and where it lies now. */
export interface UnpackedFile {
  readonly fileName: string;
  readonly path: string;
}

/** What lay in a zip file: photographs, and texts that may be their list. */
export interface Unpacked {
  readonly photographs: readonly UnpackedFile[];
  readonly texts: readonly UnpackedFile[];
}

const PHOTOGRAPH = /\.(jpe?g|tiff?|png)$/i;
const TEXT = /\.(csv|txt|tsv|dat)$/i;
const MOST_FILES = 20_000;
/** Photographs are packed already: what grows much more than this on the way out is none. */
const MOST_GROWTH = 50;
const [MOST_TEXT, MOST_PHOTOGRAPH] = [100e6, 4e9];

/**
 * Unpacks photographs and their list; folders in the zip file are passed over, and so is what is neither.
 * @throws FormatError `zip-unreadable`
 */
export async function unpackPhotographs(
  { path, fileName, folder }: UnpackTask,
  onShare: (share: number) => void,
): Promise<Unpacked> {
  const refuse = (what: string, fix = 'Pack the photographs and their list anew, as one zip file.'): FormatError =>
    new FormatError('zip-unreadable', { what: `${fileName} cannot be read: ${what}.`, fix });
  let zip: ZipFile;
  try {
    zip = await yauzl.openPromise(path);
  } catch (error) {
    throw refuse(`it is no zip file, or is cut short (${(error as Error).message})`);
  }
  const photographs: UnpackedFile[] = [];
  const texts: UnpackedFile[] = [];
  try {
    if (zip.entryCount > MOST_FILES) throw refuse(`it holds ${zip.entryCount} files; ${MOST_FILES} are the most`);
    await mkdir(folder, { recursive: true });
    const names = new Set<string>();
    let done = 0;
    for await (const entry of zip.eachEntry()) {
      onShare(++done / zip.entryCount);
      const name = entry.fileName.split('/').at(-1)!;
      const isPhotograph = PHOTOGRAPH.test(name);
      // Files that a system keeps beside others of the same name begin with a dot.
      if (name === '' || name.startsWith('.') || (!isPhotograph && !TEXT.test(name))) continue;
      if (names.has(name.toLowerCase()))
        throw refuse(`two files in it are called ${name}`, 'Give photographs names of their own.');
      names.add(name.toLowerCase());
      if (entry.isEncrypted()) throw refuse(`${name} is under a password`, 'Pack it without one.');
      const { uncompressedSize: size, compressedSize } = entry;
      const most = isPhotograph ? Math.min(MOST_PHOTOGRAPH, MOST_GROWTH * compressedSize + 1e6) : MOST_TEXT;
      if (size > most) throw refuse(`${name} would become ${Math.round(size / 1e6)} MB`);
      // Names in a zip file are not to be trusted as names on the disk.
      const target = join(folder, `${done}${isPhotograph ? '.photograph' : '.text'}`);
      await pipeline(await zip.openReadStreamPromise(entry), createWriteStream(target)).catch((error: unknown) => {
        throw refuse(`${name}: ${(error as Error).message}`, 'Copy the file again, whole.');
      });
      (isPhotograph ? photographs : texts).push({ fileName: name, path: target });
    }
  } catch (error) {
    throw error instanceof FormatError ? error : refuse((error as Error).message, 'Copy the file again, whole.');
  } finally {
    zip.close();
  }
  const byName = (a: UnpackedFile, b: UnpackedFile): number => (a.fileName < b.fileName ? -1 : 1);
  return { photographs: photographs.sort(byName), texts: texts.sort(byName) };
}
