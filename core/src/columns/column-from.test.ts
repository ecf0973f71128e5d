import { expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { ascending, columnFrom } from './index.js';

test('gives what the language’s own way gives, for every kind of column and source', () => {
  const random = seededRandom(3);
  const list = Array.from({ length: 500 }, () => 400 * random() - 100);
  for (const given of [Float64Array, Float32Array, Int32Array, Uint32Array, Uint16Array, Uint8Array]) {
    const type = given as unknown as Float64ArrayConstructor;
    const of = (value: number, k: number): number => value * 1.5 + k;
    expect(columnFrom(type, list, of)).toEqual(type.from(list, of));
    expect(columnFrom(type, Float64Array.from(list), of)).toEqual(type.from(list, of));
  }
  expect(columnFrom(Uint32Array, { length: 4 }, (_, k) => 3 * k)).toEqual(Uint32Array.of(0, 3, 6, 9));
  expect(columnFrom(Float64Array, [], () => 1)).toEqual(new Float64Array(0));
});

test('rising numbers', () => {
  expect(ascending(4)).toEqual(Uint32Array.of(0, 1, 2, 3));
  expect(ascending(0)).toHaveLength(0);
});
