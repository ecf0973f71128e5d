import { open, type FileHandle } from 'node:fs/promises';
import { basename } from 'node:path';
import type { ByteSink, ByteSource } from '@pampero/core/formats';

/** A file as a source of bytes; close it when done. */
export async function openFileSource(
  path: string,
  name = basename(path),
): Promise<ByteSource & { close(): Promise<void> }> {
  const file = await open(path, 'r');
  const { size } = await file.stat();
  return {
    name,
    size,
    async read(begin, end) {
      const bytes = new Uint8Array(Math.max(0, Math.min(end, size) - begin));
      let filled = 0;
      while (filled < bytes.length) {
        const { bytesRead } = await file.read(bytes, filled, bytes.length - filled, begin + filled);
        if (bytesRead === 0) break;
        filled += bytesRead;
      }
      return bytes.subarray(0, filled);
    },
    close: () => file.close(),
  };
}

/** Writes bytes whole: the system may take fewer of them at once, where the disk is nearly full for one. */
export async function writeAll(file: FileHandle, bytes: Uint8Array, at: number): Promise<void> {
  for (let done = 0; done < bytes.length;) {
    const { bytesWritten } = await file.write(bytes, done, bytes.length - done, at + done);
    done += bytesWritten;
  }
}

/** A file that a writer appends to and patches. */
export function fileSink(file: FileHandle): ByteSink {
  let at = 0;
  return {
    async append(bytes) {
      await writeAll(file, bytes, at);
      at += bytes.length;
    },
    async patch(position, bytes) {
      await writeAll(file, bytes, position);
    },
  };
}
