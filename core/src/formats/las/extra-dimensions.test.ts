import { expect, test } from 'vitest';
import { knownDimensions, extraValues, floatDimensionRecord, readExtraDimensions } from './extra-dimensions.js';

/** A descriptor byte by byte after LAS 1.4 R15, table 24. */
function descriptor(type: number, name: string, options = 0, scale = 1, shift = 0): Uint8Array {
  const bytes = new Uint8Array(192);
  const view = new DataView(bytes.buffer);
  bytes[2] = type;
  bytes[3] = options;
  new TextEncoder().encodeInto(name, bytes.subarray(4, 36));
  view.setFloat64(112, scale, true);
  view.setFloat64(136, shift, true);
  return bytes;
}
const record = (...parts: Uint8Array[]) => {
  const data = new Uint8Array(parts.length * 192);
  parts.forEach((part, i) => data.set(part, i * 192));
  return [{ userId: 'LASF_Spec', recordId: 4, data }];
};

test('dimensions lie one behind another, undocumented bytes between them; scale and offset where the options say', () => {
  const dimensions = readExtraDimensions(
    record(descriptor(3, 'echo width'), descriptor(0, 'void', 5), descriptor(1, 'Confidence', 8 | 16, 0.5, 10)),
  );
  expect(dimensions).toEqual([
    { name: 'echo width', type: 3, at: 0, scale: 1, shift: 0 },
    { name: 'Confidence', type: 1, at: 7, scale: 0.5, shift: 10 },
  ]);
  const { confidence, accuracy } = knownDimensions(dimensions);
  expect(accuracy).toBeUndefined();
  const extra = Uint8Array.from([1, 0, 9, 9, 9, 9, 9, 200, 2, 0, 9, 9, 9, 9, 9, 7]);
  expect([...extraValues(confidence!, extra, 8, 2)]).toEqual([110, 13.5]);
  // Records that describe more than a point has.
  expect([...extraValues(confidence!, extra, 4, 2)]).toEqual([NaN, NaN]);
});

test('every type is read, and what is written is read again', () => {
  const extra = new Uint8Array(64);
  const view = new DataView(extra.buffer);
  const cases: [number, (v: number) => void, number][] = [
    [1, (v) => view.setUint8(0, v), 250],
    [2, (v) => view.setInt8(0, v), -5],
    [3, (v) => view.setUint16(0, v, true), 60_000],
    [4, (v) => view.setInt16(0, v, true), -1000],
    [5, (v) => view.setUint32(0, v, true), 3_000_000],
    [6, (v) => view.setInt32(0, v, true), -70_000],
    [7, (v) => view.setBigUint64(0, BigInt(v), true), 123_456],
    [8, (v) => view.setBigInt64(0, BigInt(v), true), -123_456],
    [9, (v) => view.setFloat32(0, v, true), 0.25],
    [10, (v) => view.setFloat64(0, v, true), -0.125],
  ];
  for (const [type, set, value] of cases) {
    set(value);
    expect(extraValues({ name: '', type, at: 0, scale: 1, shift: 0 }, extra, 8, 1)[0]).toBe(value);
  }
  const [own] = readExtraDimensions([floatDimensionRecord('confidence', 'as the source has it')]);
  expect(own).toEqual({ name: 'confidence', type: 9, at: 0, scale: 1, shift: 0 });
});

test('no record, a short one and unknown types are no trouble', () => {
  expect(readExtraDimensions([])).toEqual([]);
  expect(readExtraDimensions([{ userId: 'LASF_Spec', recordId: 4, data: new Uint8Array(100) }])).toEqual([]);
  expect(readExtraDimensions(record(descriptor(31, 'strange'), descriptor(1, 'quality')))).toEqual([]);
});

test('the accuracy of an elevation is known by what files call it, confidence by other names', () => {
  const named = (name: string) => knownDimensions([{ name, type: 9, at: 0, scale: 1, shift: 0 }]);
  for (const name of ['height accuracy', 'Vertical uncertainty', 'z_sigma', 'scalar_Z_std'])
    expect(Object.keys(named(name)), name).toEqual(['accuracy']);
  for (const name of ['Quality', 'scalar_confidence']) expect(Object.keys(named(name)), name).toEqual(['confidence']);
  for (const name of ['plan accuracy', 'amplitude', '']) expect(named(name), name).toEqual({});
});
