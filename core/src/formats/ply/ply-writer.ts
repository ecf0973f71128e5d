import type { PointBatch, PointColumns, Quantisation } from '../../cloud/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSink } from '../byte-source.js';

export interface PlyWriterOptions {
  readonly quantisation: Quantisation;
  readonly columns: PointColumns;
  /** A line of the header: the coordinate system's name, say. */
  readonly comment?: string;
}

/** Digits that the count of vertices is padded to, so that it can be patched in last. */
const COUNT_DIGITS = 15;

/**
 * Writes batches as a binary little-endian PLY of vertices: coordinates as doubles, intensity of 16 bits, colours of 8, as
 * is usual in that format, and the class.
 * @returns how many points were written
 */
export async function writePly(
  sink: ByteSink,
  batches: AsyncIterable<PointBatch> | Iterable<PointBatch>,
  { quantisation: { scale, offset }, columns, comment }: PlyWriterOptions,
  signal?: { readonly aborted: boolean },
): Promise<number> {
  const beforeCount = [
    'ply',
    'format binary_little_endian 1.0',
    ...(comment ? [`comment ${comment.replace(/[^ -~]/g, '?')}`] : []),
    'element vertex ',
  ].join('\n');
  const properties = [
    'double x',
    'double y',
    'double z',
    'ushort intensity',
    ...(columns.rgb ? ['uchar red', 'uchar green', 'uchar blue'] : []),
    'uchar classification',
  ].map((property) => `property ${property}`);
  const count = (n: number): Uint8Array => ascii(String(n).padStart(COUNT_DIGITS, ' '));
  await sink.append(ascii(`${beforeCount}${' '.repeat(COUNT_DIGITS)}\n${properties.join('\n')}\nend_header\n`));
  const length = 24 + 2 + (columns.rgb ? 3 : 0) + 1;
  let written = 0;
  for await (const batch of batches) {
    checkCancelled(signal);
    const bytes = new Uint8Array(batch.count * length);
    const view = new DataView(bytes.buffer);
    for (let i = 0, at = 0; i < batch.count; i++, at += length) {
      view.setFloat64(at, batch.x[i]! * scale[0] + offset[0], true);
      view.setFloat64(at + 8, batch.y[i]! * scale[1] + offset[1], true);
      view.setFloat64(at + 16, batch.z[i]! * scale[2] + offset[2], true);
      view.setUint16(at + 24, batch.intensity[i]!, true);
      if (columns.rgb) {
        bytes[at + 26] = batch.red![i]! >> 8;
        bytes[at + 27] = batch.green![i]! >> 8;
        bytes[at + 28] = batch.blue![i]! >> 8;
      }
      bytes[at + length - 1] = batch.classification[i]!;
    }
    await sink.append(bytes);
    written += batch.count;
  }
  await sink.patch(beforeCount.length, count(written));
  return written;
}

function ascii(text: string): Uint8Array {
  return Uint8Array.from(text, (letter) => letter.charCodeAt(0));
}
