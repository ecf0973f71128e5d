import { inflateSync } from 'node:zlib';
import { seededRandom } from '@pampero/core/task';
import { describe, expect, test } from 'vitest';
import { packMarks } from '../tasks/mark-tasks.js';
import { applyDifference, packDifference, type Marks } from './mark-difference.js';

const marks = (count: number, seed: number): Marks => {
  const random = seededRandom(seed);
  return {
    classification: Uint8Array.from({ length: count }, () => Math.floor(6 * random())),
    flags: Uint8Array.from({ length: count }, () => (random() < 0.1 ? 4 : 0)),
  };
};
const copy = ({ classification, flags }: Marks): Marks => ({
  classification: Uint8Array.from(classification),
  flags: Uint8Array.from(flags),
});

describe('what differs between two states of a node', () => {
  test('takes either state to the other, and back', () => {
    for (let seed = 1; seed < 20; seed++) {
      const [before, after] = [marks(seed * 37, seed), marks(seed * 37, seed + 100)];
      const { difference, counts } = packDifference(before, after);
      const moving = copy(before);
      applyDifference(inflateSync(difference), moving);
      expect(moving).toEqual(after);
      applyDifference(inflateSync(difference), moving);
      expect(moving).toEqual(before);
      const counted = Object.values(JSON.parse(counts) as Record<string, number>).reduce((sum, n) => sum + n, 0);
      expect(counted).toBe(seed * 37);
    }
  });

  test('nodes in which nothing differs are left out', () => {
    const [one, other] = [marks(50, 1), marks(50, 2)];
    const changed = packMarks({
      nodes: [
        { nodeId: 1, before: one, after: copy(one) },
        { nodeId: 2, before: one, after: other },
        { nodeId: 3, before: one, after: { ...copy(one), flags: other.flags } },
      ],
    });
    expect(changed.map(({ nodeId }) => nodeId)).toEqual([2, 3]);
    expect(changed[0]!.classification).toEqual(other.classification);
  });
});
