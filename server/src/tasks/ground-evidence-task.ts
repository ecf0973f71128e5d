import { ascending, columnFrom } from '@pampero/core/columns';
import { unpackColumns, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import { pointEvidence, type PointEvidence, type StripPoints } from '@pampero/core/ground';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** What some nodes tell of land and points: even ones from the whole cloud, dense ones from here and there. */
export function groundEvidence({
  even,
  dense,
  quantisation,
  columns,
  attributeNames,
  metresPerUnit,
  spacing,
}: {
  readonly even: readonly NodeColumns[];
  readonly dense: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly metresPerUnit: number;
  /** Of last returns, job units. */
  readonly spacing: number;
}): PointEvidence {
  const lastReturns = (node: NodeColumns): StripPoints => {
    const { x, y, z } = positionsOf(node);
    const wanted = unpackColumns(node.attributes!, node.count, attributeNames, columns, ['returns', 'pointSourceId']);
    const [returns, strips] = [wanted.returns as Uint8Array, wanted.pointSourceId as Uint16Array];
    const last = ascending(returns.length).filter((i) => (returns[i]! & 0x0f) >= returns[i]! >> 4);
    const at = (values: Int32Array, axis: 0 | 1 | 2): Float64Array =>
      columnFrom(Float64Array, last, (i) => values[i]! * quantisation.scale[axis] + quantisation.offset[axis]);
    const strip = columnFrom(Uint16Array, last, (i) => strips[i]!);
    return { count: last.length, x: at(x, 0), y: at(y, 1), z: at(z, 2), strip };
  };
  const wide = even.map(lastReturns);
  const joined = (axis: 'x' | 'y' | 'z'): Float64Array => {
    const out = new Float64Array(wide.reduce((sum, { count }) => sum + count, 0));
    let at = 0;
    for (const part of wide) {
      out.set(part[axis] as Float64Array, at);
      at += part.count;
    }
    return out;
  };
  const x = joined('x');
  const all = { count: x.length, x, y: joined('y'), z: joined('z') };
  return pointEvidence(all, dense.map(lastReturns), spacing, metresPerUnit);
}
