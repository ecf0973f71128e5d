import { GROUND, type ColumnName, type PointColumns } from '@pampero/core/cloud';
import { findGround, type GroundSettings } from '@pampero/core/ground';

import { batchOf, coloursOf, type GroundTask } from './ground-nodes.js';

export interface PreviewTask extends GroundTask {
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly settings: GroundSettings;
  /** Other settings to hold these against; the present classes where there are none. */
  readonly against: GroundSettings | undefined;
  readonly metresPerUnit: number;
  /** Land that is asked about; what the nodes hold beyond it is margin. */
  readonly window: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
}

/** Points in a window that settings would make ground or take out of it, against the present classes or other settings. */
export function previewGround(task: PreviewTask): {
  gained: number;
  lost: number;
  nodes: { nodeId: number; bits: Uint8Array; kept?: Uint8Array }[];
} {
  const { nodes, quantisation, columns, attributeNames, takes, settings, against, metresPerUnit, window } = task;
  const parts = nodes.map((node) => ({
    ...batchOf(node, columns, attributeNames),
    ...(columns.rgb && coloursOf(node, columns, attributeNames)),
  }));
  const count = parts.reduce((sum, part) => sum + part.count, 0);
  const join = <K extends 'x' | 'y' | 'z' | 'classification' | 'flags' | 'returns' | 'red' | 'green' | 'blue'>(
    name: K,
    Type: new (length: number) => Int32Array | Uint8Array | Uint16Array,
  ) => {
    const out = new Type(count);
    let at = 0;
    for (const part of parts) {
      out.set((part as never as Record<K, ArrayLike<number>>)[name], at);
      at += part.count;
    }
    return out;
  };
  const batch = {
    count,
    x: join('x', Int32Array) as Int32Array,
    y: join('y', Int32Array) as Int32Array,
    z: join('z', Int32Array) as Int32Array,
    classification: join('classification', Uint8Array) as Uint8Array,
    flags: join('flags', Uint8Array) as Uint8Array,
    returns: join('returns', Uint8Array) as Uint8Array,
    ...(columns.rgb && {
      red: join('red', Uint16Array) as Uint16Array,
      green: join('green', Uint16Array) as Uint16Array,
      blue: join('blue', Uint16Array) as Uint16Array,
    }),
  };
  const { scale, offset } = quantisation;
  const find = (of: GroundSettings): Uint8Array => {
    const reach = (values: Int32Array, axis: 0 | 1): [number, number] => {
      let [low, high] = [Infinity, -Infinity];
      for (const value of values) {
        if (value < low) low = value;
        if (value > high) high = value;
      }
      return [low * scale[axis] + offset[axis], high * scale[axis] + offset[axis]];
    };
    const [[west, east], [south, north]] = [reach(batch.x, 0), reach(batch.y, 1)];
    // Cells where the whole cloud's would be.
    const [firstColumn, firstRow] = [Math.floor(west / of.cell), Math.floor(south / of.cell)];
    const frame = {
      east: firstColumn * of.cell,
      north: firstRow * of.cell,
      cell: of.cell,
      columns: Math.floor(east / of.cell) - firstColumn + 1,
      rows: Math.floor(north / of.cell) - firstRow + 1,
    };
    return findGround(batch, quantisation, frame, of, takes, metresPerUnit);
  };
  const next = find(settings);
  const present = batch.classification;
  const other = against && find(against);
  let [gained, lost, first] = [0, 0, 0];
  const out = nodes.flatMap(({ nodeId, count: own }) => {
    const bits = new Uint8Array(Math.ceil(own / 8));
    const kept = other && new Uint8Array(bits.length);
    let any = false;
    for (let k = 0; k < own; k++) {
      const i = first + k;
      const isGround = next[i] === GROUND;
      const isNow = present[i] === GROUND;
      const was = other ? other[i] === GROUND : isNow;
      if (isGround === isNow && was === isNow) continue;
      const e = batch.x[i]! * scale[0] + offset[0];
      const n = batch.y[i]! * scale[1] + offset[1];
      if (e < window.west || e > window.east || n < window.south || n > window.north) continue;
      any = true;
      if (isGround !== isNow) bits[k >> 3]! |= 1 << (k & 7);
      if (kept && was !== isNow) kept[k >> 3]! |= 1 << (k & 7);
      if (isGround && !was) gained++;
      else if (was && !isGround) lost++;
    }
    first += own;
    return any ? [{ nodeId, bits, ...(kept && { kept }) }] : [];
  });
  return { gained, lost, nodes: out };
}
