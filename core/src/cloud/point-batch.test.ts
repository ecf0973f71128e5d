import { describe, expect, test } from 'vitest';
import { columnsOf, gatherPoints, joinPoints, newPointBatch, slicePoints, type PointBatch } from './index.js';

/** A batch whose values tell where they come from, at the ends of what their columns hold. */
function batch(count: number): PointBatch {
  const points = newPointBatch(count, { gpsTime: true, rgb: true, nearInfrared: true, wavePacket: true, extraBytesLength: 3 }); // prettier-ignore
  for (const { name, values } of columnsOf(points))
    for (let i = 0; i < values.length; i++)
      values[i] = name === 'gpsTime' ? i + 0.125 : name === 'scanAngle' || name === 'x' ? 7 - i * 1000 : (i * 7) % 251;
  return points;
}
/** What a point has in every column. */
const pointAt = (points: PointBatch, i: number): Record<string, number[]> =>
  Object.fromEntries(
    columnsOf(points).map(({ name, values }) => {
      const stride = values.length / points.count;
      return [name, Array.from(values.slice(i * stride, (i + 1) * stride))];
    }),
  );

describe('points of a batch', () => {
  test('are gathered in any order and more than once, with every column as it is', () => {
    const points = batch(20);
    const order = Uint32Array.of(19, 0, 7, 7, 3);
    const gathered = gatherPoints(points, order);
    expect(gathered.count).toBe(5);
    order.forEach((from, to) => expect(pointAt(gathered, to)).toEqual(pointAt(points, from)));
    expect(gathered.x.constructor).toBe(Int32Array);
    expect(gathered.scanAngle.constructor).toBe(Int16Array);
    expect(gathered.scanAngle[0]).toBeLessThan(0);
  });

  test('are gathered from a part of a batch over the same memory', () => {
    const part = slicePoints(batch(20), 5, 15);
    const gathered = gatherPoints(part, Uint32Array.of(9, 0));
    expect([pointAt(gathered, 0), pointAt(gathered, 1)]).toEqual([pointAt(part, 9), pointAt(part, 0)]);
  });

  test('none gathered are none', () => {
    const none = gatherPoints(batch(4), new Uint32Array(0));
    expect([none.count, none.x.length, none.extraBytes!.length]).toEqual([0, 0, 0]);
  });

  test('parts put together are the batch', () => {
    const points = batch(11);
    const joined = joinPoints([slicePoints(points, 0, 4), slicePoints(points, 4, 11)]);
    for (let i = 0; i < 11; i++) expect(pointAt(joined, i)).toEqual(pointAt(points, i));
  });
});
