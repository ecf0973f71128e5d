import { describe, expect, test } from 'vitest';
import { pack, sumOf, unpack } from './parcel.js';
import { readQueueAddress } from './queue-address.js';

describe('the address of a queue', () => {
  test('is read with user, password, number and port', () => {
    expect(readQueueAddress('redis://127.0.0.1')).toEqual({ host: '127.0.0.1', port: 6379 });
    expect(readQueueAddress('redis://:p%40ss@queue.office:7000/3')).toEqual({
      host: 'queue.office',
      port: 7000,
      password: 'p@ss',
      db: 3,
    });
    expect(readQueueAddress('rediss://survey:word@[fd00::5]')).toMatchObject({
      host: 'fd00::5',
      username: 'survey',
      tls: {},
    });
  });

  test.each(['', 'queue', 'http://127.0.0.1', 'redis://'])('“%s” is none', (text) => {
    expect(() => readQueueAddress(text)).toThrow(/redis:\/\//);
  });

  test('beyond this machine it has a password, or is refused', () => {
    expect(() => readQueueAddress('redis://10.0.0.5')).toThrow(/has no password/);
    expect(() => readQueueAddress('redis://survey@queue.office')).toThrow(/has no password/);
    expect(readQueueAddress('redis://localhost').password).toBeUndefined();
  });
});

describe('what a task is sent as', () => {
  test('comes back as it was, columns as columns of their kind', () => {
    const task = {
      nodes: [{ nodeId: 3, x: Int32Array.of(1, -2), flags: Uint8Array.of(7) }],
      takes: new Uint8Array(256).fill(1),
      level: Number.NaN,
      none: undefined,
      byName: new Map([['a', Float64Array.of(0.1)]]),
    };
    expect(unpack(pack(task))).toEqual(task);
  });

  test('memory that threads share is copied, as a column of its kind', () => {
    const shared = new Float32Array(new SharedArrayBuffer(8));
    shared.set([1.5, Number.NaN]);
    const { heights } = unpack(pack({ heights: shared })) as { heights: Float32Array };
    expect(heights).toEqual(Float32Array.of(1.5, Number.NaN));
    expect(heights.buffer).toBeInstanceOf(ArrayBuffer);
  });

  test('a byte that was changed on the way shows in its sum', () => {
    const bytes = pack({ a: 1 });
    const sum = sumOf(bytes);
    bytes[bytes.length - 1]! ^= 1;
    expect(sumOf(bytes)).not.toBe(sum);
  });
});
