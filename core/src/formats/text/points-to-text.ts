import type { PointBatch, Quantisation } from '../../cloud/index.js';
import { FormatError } from '../format-error.js';

/** What a column of a written text file can hold, in the order a file is offered with. */
export const WRITTEN_COLUMNS = [
  'easting',
  'northing',
  'elevation',
  'intensity',
  'class',
  'return-number',
  'number-of-returns',
  'red',
  'green',
  'blue',
  'gps-time',
  'point-source-id',
  'scan-angle',
  'user-data',
  'withheld',
] as const;
export type WrittenColumn = (typeof WRITTEN_COLUMNS)[number];

export interface TextWriterOptions {
  readonly quantisation: Quantisation;
  readonly columns: readonly WrittenColumn[];
  readonly delimiter: ',' | ';' | '\t' | ' ';
  readonly hasHeadings: boolean;
}

/** Decimals that show every step of a scale: 3 for 0.001. */
export function decimalsOf(scale: number): number {
  return Math.max(0, Math.min(10, Math.ceil(-Math.log10(scale) - 1e-9)));
}

/**
 * Points as lines of text, one piece a batch; lengths with the decimals of the cloud's scale, colours of 16 bits, scan
 * angles in degrees.
 * @throws FormatError where a column is asked for that the cloud does not have
 */
export async function* pointsToText(
  batches: AsyncIterable<PointBatch> | Iterable<PointBatch>,
  { quantisation: { scale, offset }, columns, delimiter, hasHeadings }: TextWriterOptions,
): AsyncGenerator<string> {
  if (hasHeadings) yield `${columns.join(delimiter)}\n`;
  const decimals = scale.map(decimalsOf) as [number, number, number];
  for await (const batch of batches) {
    const axis = (values: Int32Array, k: 0 | 1 | 2) => (i: number) =>
      (values[i]! * scale[k] + offset[k]).toFixed(decimals[k]);
    const of = (values: ArrayLike<number> | undefined, name: WrittenColumn) => {
      if (!values)
        throw new FormatError('value-does-not-fit', {
          what: `The cloud has no ${name.replaceAll('-', ' ')}.`,
          fix: 'Leave that column out.',
        });
      return (i: number) => String(values[i]);
    };
    const writers: Record<WrittenColumn, () => (i: number) => string> = {
      easting: () => axis(batch.x, 0),
      northing: () => axis(batch.y, 1),
      elevation: () => axis(batch.z, 2),
      intensity: () => of(batch.intensity, 'intensity'),
      class: () => of(batch.classification, 'class'),
      'return-number': () => (i) => String(batch.returns[i]! & 15),
      'number-of-returns': () => (i) => String(batch.returns[i]! >> 4),
      red: () => of(batch.red, 'red'),
      green: () => of(batch.green, 'green'),
      blue: () => of(batch.blue, 'blue'),
      'gps-time': () => of(batch.gpsTime, 'gps-time'),
      'point-source-id': () => of(batch.pointSourceId, 'point-source-id'),
      'scan-angle': () => (i) => (batch.scanAngle[i]! * 0.006).toFixed(3),
      'user-data': () => of(batch.userData, 'user-data'),
      withheld: () => (i) => (batch.flags[i]! & 4 ? '1' : '0'),
    };
    const cells = columns.map((name) => writers[name]());
    let text = '';
    for (let i = 0; i < batch.count; i++) {
      for (let k = 0; k < cells.length; k++) text += (k > 0 ? delimiter : '') + cells[k]!(i);
      text += '\n';
    }
    yield text;
  }
}
