import type { ByteSink, ByteSource } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import { crc32c } from './crc32c.js';

/** Every page ends with the checksum of what stands before it, big-endian (ASTM E2807, 7.3). */
export const CHECKSUM_BYTES = 4;
export const PAGE_BYTES = 1024;
export const PAGE_CONTENT = PAGE_BYTES - CHECKSUM_BYTES;

/** Where a logical byte (checksums not counted) lies in the file. */
export function physicalOf(logical: number, pageSize = PAGE_BYTES): number {
  const content = pageSize - CHECKSUM_BYTES;
  return Math.floor(logical / content) * pageSize + (logical % content);
}

export function logicalOf(physical: number, pageSize = PAGE_BYTES): number {
  return Math.floor(physical / pageSize) * (pageSize - CHECKSUM_BYTES) + (physical % pageSize);
}

/**
 * The content of a paged file, its checksums checked.
 * @throws FormatError naming the page that is damaged or missing
 */
export async function readPaged(
  source: ByteSource,
  pageSize: number,
  logical: number,
  length: number,
): Promise<Uint8Array> {
  const content = pageSize - CHECKSUM_BYTES;
  const firstPage = Math.floor(logical / content);
  const endPage = Math.ceil((logical + length) / content);
  const raw = await source.read(firstPage * pageSize, Math.min(source.size, endPage * pageSize));
  const out = new Uint8Array(length);
  for (let page = firstPage; page < endPage; page++) {
    const at = (page - firstPage) * pageSize;
    const bytes = raw.subarray(at, at + pageSize);
    const damaged = (what: string): FormatError =>
      new FormatError('checksum-wrong', {
        what,
        where: `${source.name}, page ${page + 1} at byte ${page * pageSize}`,
        fix: 'The file is damaged: copy or export it again.',
      });
    if (bytes.length < pageSize)
      throw damaged(`The page has ${bytes.length} of ${pageSize} bytes: the file is cut short.`);
    const stated = new DataView(bytes.buffer, bytes.byteOffset + content, 4).getUint32(0, false);
    const real = crc32c(bytes.subarray(0, content));
    if (stated !== real)
      throw damaged(`The checksum is ${stated.toString(16)}, the page’s content gives ${real.toString(16)}.`);
    const begin = Math.max(logical, page * content);
    const end = Math.min(logical + length, (page + 1) * content);
    out.set(bytes.subarray(begin - page * content, end - page * content), begin - logical);
  }
  return out;
}

/** Writes content page by page; the first page is kept, since it is completed last. */
export class PagedSink {
  private readonly first = new Uint8Array(PAGE_CONTENT);
  private page = new Uint8Array(PAGE_CONTENT);
  /** Content so far. */
  logical = 0;

  constructor(private readonly sink: ByteSink) {}

  async append(bytes: Uint8Array): Promise<void> {
    const pages: Uint8Array[] = [];
    for (let from = 0; from < bytes.length;) {
      const at = this.logical % PAGE_CONTENT;
      const part = bytes.subarray(from, from + PAGE_CONTENT - at);
      this.page.set(part, at);
      this.logical += part.length;
      from += part.length;
      if (this.logical % PAGE_CONTENT === 0) pages.push(this.turnPage());
    }
    if (pages.length > 0) await this.sink.append(joined(pages));
  }

  /** Fills the last page and patches the first, which `complete` writes into. Returns the file's length. */
  async finish(complete: (first: DataView, fileLength: number) => void): Promise<number> {
    if (this.logical % PAGE_CONTENT !== 0)
      await this.append(new Uint8Array(PAGE_CONTENT - (this.logical % PAGE_CONTENT)));
    const fileLength = physicalOf(this.logical);
    complete(new DataView(this.first.buffer), fileLength);
    await this.sink.patch(0, checked(this.first));
    return fileLength;
  }

  private turnPage(): Uint8Array {
    if (this.logical === PAGE_CONTENT) this.first.set(this.page);
    const page = checked(this.page);
    this.page = new Uint8Array(PAGE_CONTENT);
    return page;
  }
}

function checked(content: Uint8Array): Uint8Array {
  const page = new Uint8Array(PAGE_BYTES);
  page.set(content);
  new DataView(page.buffer).setUint32(PAGE_CONTENT, crc32c(content), false);
  return page;
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return parts[0]!;
  const whole = new Uint8Array(parts.length * PAGE_BYTES);
  parts.forEach((part, i) => whole.set(part, i * PAGE_BYTES));
  return whole;
}
