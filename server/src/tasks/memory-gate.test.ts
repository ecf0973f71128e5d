import { Cancelled } from '@pampero/core/task';
import { expect, test } from 'vitest';
import { MemoryGate } from './memory-gate.js';

const never = new AbortController().signal;

/** Asks for entry and says when it was given. */
function asked(gate: MemoryGate, megabytes: number, signal = never) {
  const entry = { isIn: false, giveBack: (): void => undefined };
  const entered = gate.enter(megabytes, signal).then((giveBack) => {
    entry.isIn = true;
    entry.giveBack = giveBack;
  });
  return { entry, entered };
}

const soon = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

test('tasks go in while there is room, and in the order they came', async () => {
  const gate = new MemoryGate(1000);
  const [first, second, large, small] = [600, 300, 800, 50].map((megabytes) => asked(gate, megabytes).entry) as [
    ReturnType<typeof asked>['entry'],
    ReturnType<typeof asked>['entry'],
    ReturnType<typeof asked>['entry'],
    ReturnType<typeof asked>['entry'],
  ];
  await soon();
  // The small one would fit, but the large one was there before.
  expect([first, second, large, small].map(({ isIn }) => isIn)).toEqual([true, true, false, false]);
  first.giveBack();
  await soon();
  expect(large.isIn).toBe(false);
  second.giveBack();
  await soon();
  expect([large.isIn, small.isIn]).toEqual([true, true]);
});

test('one that needs more than there is goes in alone, and memory is given back once', async () => {
  const gate = new MemoryGate(1000);
  const huge = asked(gate, 5000);
  await huge.entered;
  const other = asked(gate, 10);
  await soon();
  expect(other.entry.isIn).toBe(false);
  huge.entry.giveBack();
  huge.entry.giveBack();
  await other.entered;
  const third = asked(gate, 995);
  await soon();
  expect(third.entry.isIn).toBe(false);
});

test('one that is cancelled while it waits no longer holds up the others', async () => {
  const gate = new MemoryGate(100);
  const inside = asked(gate, 60);
  await inside.entered;
  const stop = new AbortController();
  const large = asked(gate, 90, stop.signal);
  const small = asked(gate, 30);
  await soon();
  expect(small.entry.isIn).toBe(false);
  stop.abort();
  await expect(large.entered).rejects.toThrow(Cancelled);
  await small.entered;
  await expect(gate.enter(1, stop.signal)).rejects.toThrow(Cancelled);
});
