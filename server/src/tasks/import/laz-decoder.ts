import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { POINT_FORMATS } from '@pampero/core/formats/las';
import type { LazChunk } from '@pampero/core/formats/laz';
import { PamperoError } from '@pampero/core/task';
import { createLazPerf, type LazPerf } from 'laz-perf';

/** What is known of a file's records. */
export interface RecordKind {
  readonly pointFormat: number;
  readonly recordLength: number;
  readonly fileName: string;
}

/** Pages of 64 KB that a decoder may grow to: 512 MB, twice the largest chunk. The library's own limit is 2 GB. */
const MOST_PAGES = 8192;
/** Points decoded between copies out of the decoder's memory. */
const COPY_POINTS = 1024;
/** Layers of a point of formats 6 to 10, each with its size at the head of a chunk: LASzip 3.4, POINT14. */
const POINT_LAYERS = 9;

/** One decoder a thread; its WebAssembly memory is kept between blocks. */
let decoder: Promise<LazPerf> | undefined;

/** Decodes one chunk, or its first points only, into records, given or new. A decoder that failed is thrown away, since its memory is in no known state. */
export async function decodeLazChunk(
  coded: Uint8Array,
  chunk: LazChunk,
  kind: RecordKind,
  given?: Uint8Array,
  count = chunk.count,
): Promise<Uint8Array> {
  const records = given ?? new Uint8Array(count * kind.recordLength);
  const { pointFormat, recordLength } = kind;
  checkLayers(coded, chunk, kind);
  decoder ??= newDecoder();
  const lazPerf = await decoder;
  try {
    const codedAt = lazPerf._malloc(coded.length);
    const pointsAt = lazPerf._malloc(recordLength * COPY_POINTS);
    const chunkDecoder = new lazPerf.ChunkDecoder();
    lazPerf.HEAPU8.set(coded, codedAt);
    chunkDecoder.open(pointFormat, recordLength, codedAt);
    for (let first = 0; first < count; first += COPY_POINTS) {
      const size = Math.min(COPY_POINTS, count - first);
      for (let i = 0; i < size; i++) chunkDecoder.getPoint(pointsAt + i * recordLength);
      records.set(lazPerf.HEAPU8.subarray(pointsAt, pointsAt + size * recordLength), first * recordLength);
    }
    chunkDecoder.delete();
    lazPerf._free(pointsAt);
    lazPerf._free(codedAt);
  } catch (error) {
    decoder = undefined;
    throw damaged(chunk, kind.fileName, `cannot be decoded (${String(error)})`);
  }
  return records;
}

/** Layers say their sizes before the decoder makes room for them: together they are the chunk, or the chunk is damaged. */
function checkLayers(coded: Uint8Array, chunk: LazChunk, { pointFormat, recordLength, fileName }: RecordKind): void {
  const format = POINT_FORMATS[pointFormat]!;
  if (!format.isExtended) {
    if (coded.length < recordLength) throw damaged(chunk, fileName, 'are fewer bytes than one point has');
    return;
  }
  const layers =
    POINT_LAYERS +
    (format.rgbAt === undefined ? 0 : 1) +
    (format.nearInfraredAt === undefined ? 0 : 1) +
    (recordLength - format.length);
  const sizesAt = recordLength + 4;
  if (coded.length < sizesAt + layers * 4) throw damaged(chunk, fileName, 'end within the list of their layers');
  const view = new DataView(coded.buffer, coded.byteOffset, coded.byteLength);
  if (view.getUint32(recordLength, true) !== chunk.count)
    throw damaged(
      chunk,
      fileName,
      `count ${view.getUint32(recordLength, true)} points, the chunk table ${chunk.count}`,
    );
  let bytes = sizesAt + layers * 4;
  for (let k = 0; k < layers; k++) bytes += view.getUint32(sizesAt + k * 4, true);
  if (bytes > coded.length) throw damaged(chunk, fileName, `would need ${bytes} bytes with all their layers`);
}

async function newDecoder(): Promise<LazPerf> {
  const file = join(dirname(createRequire(import.meta.url).resolve('laz-perf')), 'laz-perf.wasm');
  return createLazPerf({ wasmBinary: withMemoryLimit(await readFile(file), MOST_PAGES) });
}

const MEMORY_SECTION = 5;

/** The module with another greatest size of its memory, as its memory section states it (WebAssembly core specification, 5.5.8). */
function withMemoryLimit(module: Uint8Array, pages: number): Uint8Array<ArrayBuffer> {
  const bytes = Uint8Array.from(module);
  let at = 8;
  const integer = (): { value: number; from: number; length: number } => {
    const from = at;
    let value = 0;
    for (let shift = 0; ; shift += 7) {
      const byte = bytes[at++]!;
      value += (byte & 127) * 2 ** shift;
      if (byte < 128) return { value, from, length: at - from };
    }
  };
  while (at < bytes.length) {
    const id = bytes[at++]!;
    const { value: length } = integer();
    if (id !== MEMORY_SECTION) {
      at += length;
      continue;
    }
    const [{ value: memories }, { value: flags }] = [integer(), integer()];
    integer(); // the least size
    if (memories !== 1 || flags !== 1) break;
    const most = integer();
    // As many bytes as before, so that nothing after them moves.
    for (let k = 0, rest = pages; k < most.length; k++, rest >>= 7)
      bytes[most.from + k] = (rest & 127) | (k < most.length - 1 ? 128 : 0);
    return bytes;
  }
  throw new Error('The LAZ decoder states no limit of its memory where one was expected.');
}

function damaged(chunk: LazChunk, fileName: string, what: string): PamperoError {
  return new PamperoError('chunk-damaged', {
    what: `The compressed points from byte ${chunk.at} to ${chunk.at + chunk.length - 1} ${what}.`,
    where: fileName,
    fix: 'The file is damaged: copy or compress it again.',
  });
}
