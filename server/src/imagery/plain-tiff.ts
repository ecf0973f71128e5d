import { open, type FileHandle } from 'node:fs/promises';

/** Rows of bytes on their way into an uncompressed TIFF of any size (TIFF 6.0 with the offsets of BigTIFF): what a library then reads in one pass. */
export class PlainTiff {
  private constructor(
    private readonly file: FileHandle,
    private readonly strips: number,
    private readonly columns: number,
    private readonly samples: number,
    private readonly bits: 8 | 16,
    private at: number,
  ) {}

  private readonly places: number[] = [];
  private readonly sizes: number[] = [];

  /** @param stripRows - rows of every strip but the last */
  static async create(
    path: string,
    {
      columns,
      rows,
      samples,
      stripRows,
      bits = 8,
    }: {
      readonly columns: number;
      readonly rows: number;
      /** Grey, colour, or colour and one more. */
      readonly samples: 1 | 3 | 4;
      readonly stripRows: number;
      readonly bits?: 8 | 16;
    },
  ): Promise<PlainTiff> {
    const file = await open(path, 'w');
    const head = Buffer.alloc(16);
    head.write('II', 0, 'latin1');
    head.writeUInt16LE(43, 2);
    head.writeUInt16LE(8, 4);
    head.writeBigUInt64LE(16n, 8);
    await file.write(head, 0, 16, 0);
    const strips = Math.ceil(rows / stripRows);
    const tiff = new PlainTiff(file, strips, columns, samples, bits, 0);
    tiff.at = tiff.writeFrom();
    await tiff.putDirectory(rows, stripRows, true);
    return tiff;
  }

  async append(bytes: Uint8Array): Promise<void> {
    await this.file.write(bytes, 0, bytes.length, this.at);
    this.places.push(this.at);
    this.sizes.push(bytes.length);
    this.at += bytes.length;
  }

  async close(rows: number, stripRows: number): Promise<void> {
    try {
      await this.putDirectory(rows, stripRows, false);
    } finally {
      await this.file.close();
    }
  }

  private static readonly ENTRIES = 10;

  private writeFrom(): number {
    return 16 + 8 + PlainTiff.ENTRIES * 20 + 8 + 16 * this.strips;
  }

  private async putDirectory(rows: number, stripRows: number, isEmpty: boolean): Promise<void> {
    const { strips, columns, samples, bits } = this;
    const lists = 16 + 8 + PlainTiff.ENTRIES * 20 + 8;
    const bytes = Buffer.alloc(lists - 16 + 16 * strips);
    const list = (from: number, values: readonly number[]): void => {
      for (let k = 0; k < strips; k++) bytes.writeBigUInt64LE(BigInt(isEmpty ? 0 : values[k]!), from - 16 + 8 * k);
    };
    list(lists, this.places);
    list(lists + 8 * strips, this.sizes);
    const [SHORT, LONG, LONG8] = [3, 4, 16];
    const one = (values: number[], from: number): number => (strips === 1 ? (isEmpty ? 0 : values[0]!) : from);
    // As many numbers of bits as samples, in one field of eight bytes.
    const bitsOfAll = Array.from({ length: samples }, (_, k) => BigInt(bits) << BigInt(16 * k)).reduce((a, b) => a | b);
    const entries: [tag: number, type: number, count: number, value: number | bigint][] = [
      [256, LONG, 1, columns],
      [257, LONG, 1, rows],
      [258, SHORT, samples, bitsOfAll],
      [259, SHORT, 1, 1],
      [262, SHORT, 1, samples === 1 ? 1 : 2],
      [273, LONG8, strips, one(this.places, lists)],
      [277, SHORT, 1, samples],
      [278, LONG, 1, stripRows],
      [279, LONG8, strips, one(this.sizes, lists + 8 * strips)],
      // What a fourth sample is, is not said: no alpha.
      [338, SHORT, samples === 4 ? 1 : 0, 0],
    ];
    const used = entries.filter(([, , count]) => count > 0);
    bytes.writeBigUInt64LE(BigInt(used.length), 0);
    used.forEach(([tag, type, count, value], k) => {
      const at = 8 + 20 * k;
      bytes.writeUInt16LE(tag, at);
      bytes.writeUInt16LE(type, at + 2);
      bytes.writeBigUInt64LE(BigInt(count), at + 4);
      bytes.writeBigUInt64LE(BigInt(value), at + 12);
    });
    await this.file.write(bytes, 0, bytes.length, 16);
  }
}
