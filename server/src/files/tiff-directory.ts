import { openFileSource } from './file-bytes.js';

/** Bytes of a value of each field type, TIFF 6.0 section 2 and BigTIFF. */
const TYPE_BYTES: Readonly<Record<number, number>> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  17: 8,
  18: 8,
};
/** Tags of the width and height of pictures, and of their pieces. */
const COUNTS: Readonly<Record<number, string>> = {
  256: 'width',
  257: 'height',
  322: 'tile width',
  323: 'tile height',
};
const COMPRESSION = 259;
/** None, LZW, Deflate under its two numbers, PackBits, LERC, Zstandard; the rest are for pictures. */
const COMPRESSIONS: readonly number[] = [1, 5, 8, 32_946, 32_773, 34_887, 50_000];
const MOST_ENTRIES = 4096;
/** One number of 16, 32 or 64 bits. */
const WHOLE_NUMBERS: readonly number[] = [3, 4, 16];

/**
 * Holds the directories of a TIFF against the file, before a library believes them: every value of the first has to lie in the file,
 * nothing has a size of zero, and they end. After TIFF 6.0 and the BigTIFF extension.
 * @throws Error that says what is wrong
 */
export async function checkTiff(
  path: string,
  { compressions = COMPRESSIONS, ofWhat = 'elevations' }: { compressions?: readonly number[]; ofWhat?: string } = {},
): Promise<void> {
  const source = await openFileSource(path);
  try {
    const viewAt = async (at: number, length: number): Promise<DataView> => {
      const bytes = await source.read(at, at + length);
      if (bytes.length < length) throw new Error(`it ends at byte ${source.size}, before its directory`);
      return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    };
    const head = await viewAt(0, 8);
    const order = head.getUint16(0, false);
    if (order !== 0x4949 && order !== 0x4d4d) throw new Error('it does not begin as a TIFF does');
    const isLittle = order === 0x4949;
    const isBig = head.getUint16(2, isLittle) === 43;
    const wordBytes = isBig ? 8 : 4;
    const word = (view: DataView, at: number): number =>
      isBig ? Number(view.getBigUint64(at, isLittle)) : view.getUint32(at, isLittle);
    const directoryAt = isBig ? word(await viewAt(8, 8), 0) : word(head, 4);
    const countBytes = isBig ? 8 : 2;
    const entriesAt = async (at: number): Promise<number> => {
      const counted = await viewAt(at, countBytes);
      const entries = isBig ? word(counted, 0) : counted.getUint16(0, isLittle);
      if (entries > MOST_ENTRIES) throw new Error(`its directory is said to have ${entries} entries`);
      return entries;
    };
    const entryBytes = isBig ? 20 : 12;
    const afterIt = async (at: number, has: number): Promise<number> =>
      word(await viewAt(at + countBytes + has * entryBytes, wordBytes), 0);
    const entries = await entriesAt(directoryAt);
    const seen = new Set([directoryAt]);
    for (
      let next = await afterIt(directoryAt, entries);
      next !== 0;
      next = await afterIt(next, await entriesAt(next))
    ) {
      if (seen.has(next)) throw new Error('its directories lead in a circle');
      seen.add(next);
    }
    const directory = await viewAt(directoryAt + countBytes, entries * entryBytes);
    for (let at = 0; at < entries * entryBytes; at += entryBytes) {
      const tag = directory.getUint16(at, isLittle);
      const type = directory.getUint16(at + 2, isLittle);
      const count = word(directory, at + 4);
      const valueAt = at + 4 + wordBytes;
      const bytes = count * (TYPE_BYTES[type] ?? 1);
      if (bytes > wordBytes && word(directory, valueAt) + bytes > source.size)
        throw new Error(`the values of its tag ${tag} lie beyond its end`);
      const value = type === 3 ? directory.getUint16(valueAt, isLittle) : directory.getUint32(valueAt, isLittle);
      if (tag === COMPRESSION && !compressions.includes(value))
        throw new Error(`it is compressed as number ${value}, which ${ofWhat} are not`);
      const name = COUNTS[tag];
      if (!name) continue;
      if (count !== 1 || !WHOLE_NUMBERS.includes(type)) throw new Error(`its ${name} is no whole number`);
      if (value === 0) throw new Error(`its ${name} is 0`);
    }
  } finally {
    await source.close();
  }
}
