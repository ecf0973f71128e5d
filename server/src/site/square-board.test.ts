import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { SquareBoard } from './square-board.js';

const TIMES = { beatMs: 20, silentMs: 300 };
let folder: string;
let boards: SquareBoard[];
const machine = async (name: string, times = TIMES): Promise<SquareBoard> => {
  const board = await SquareBoard.at(folder, name, times);
  boards.push(board);
  return board;
};
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-board-'));
  boards = [];
});
afterEach(async () => {
  for (const board of boards) await board.close();
  await rm(folder, { recursive: true, force: true });
});
/** A machine that was killed: what it had taken stays as it is. */
const killed = async (name: string, square: string): Promise<void> => {
  const board = await SquareBoard.at(folder, name, TIMES);
  await board.take(square);
  await board.close();
};

test('of many machines that want a square one alone gets it', async () => {
  const all = await Promise.all(Array.from({ length: 12 }, (_, k) => machine(`machine ${k}`)));
  for (let turn = 0; turn < 10; turn++) {
    const got = await Promise.all(all.map((board) => board.take(`square ${turn}`)));
    expect(got.filter(Boolean)).toHaveLength(1);
  }
});

test('a square is told of to the others, with its edges and why it stopped', async () => {
  const [one, other] = [await machine('one'), await machine('other')];
  await one.take('a');
  await one.tell('a', 'classed', { hasClasses: true });
  expect((await other.look()).get('a')).toMatchObject({ by: 'one', phase: 'classed', hasClasses: true, isLeft: false });
  await one.tell('a', 'stopped', { because: 'No ground.', waitsAt: 'look' });
  expect((await other.look()).get('a')).toMatchObject({ phase: 'stopped', because: 'No ground.', waitsAt: 'look', hasClasses: true }); // prettier-ignore
  expect(await other.take('a')).toBe(false);
});

test('a machine that lives keeps its squares, however long they take', async () => {
  const [one, other] = [await machine('one'), await machine('other')];
  await one.take('a');
  await other.look();
  await pause(3 * TIMES.silentMs);
  expect((await other.look()).get('a')!.isLeft).toBe(false);
  expect(await other.take('a')).toBe(false);
});

test('what a killed machine had is taken over by one of several, once it was silent long enough; what is done or stopped is not', async () => {
  await killed('dead', 'a');
  const finished = await machine('finished');
  for (const square of ['b', 'c']) await finished.take(square);
  await finished.tell('b', 'done');
  await finished.tell('c', 'stopped', { because: 'It waits.' });
  await finished.close();
  const all = await Promise.all(Array.from({ length: 6 }, (_, k) => machine(`machine ${k}`)));
  for (const board of all) await board.look();
  expect((await Promise.all(all.map((board) => board.take('a')))).filter(Boolean)).toHaveLength(0);
  await pause(TIMES.silentMs + 50);
  const got = await Promise.all(all.map((board) => board.take('a')));
  expect(got.filter(Boolean)).toHaveLength(1);
  for (const square of ['b', 'c'])
    expect((await Promise.all(all.map((board) => board.take(square)))).some(Boolean)).toBe(false);
  const there = (await readdir(folder)).filter((name) => !name.endsWith('.part'));
  expect(there.sort()).toEqual(['a.json', 'b.json', 'c.json']);
});

test('a machine that comes back after its square was taken over is told so, and changes nothing', async () => {
  const [slept, other] = [await machine('slept', { beatMs: 1e6, silentMs: 1e6 }), await machine('other')];
  await slept.take('a');
  await other.look();
  await pause(TIMES.silentMs + 50);
  expect(await other.take('a')).toBe(true);
  await other.tell('a', 'classed', { hasClasses: true });
  expect(await slept.tell('a', 'done')).toBe(false);
  expect(await slept.tell('a', 'done')).toBe(false);
  expect((await other.look()).get('a')).toMatchObject({ by: 'other', phase: 'classed' });
});

test('started again a machine knows its squares, and lets go of them when it is stopped', async () => {
  await killed('one', 'a');
  const again = await machine('one');
  expect((await again.look()).get('a')!.isLeft).toBe(false);
  expect(await again.tell('a', 'classed', { hasClasses: true })).toBe(true);
  await again.take('b');
  await again.tell('b', 'done');
  await again.letGo();
  expect(await readdir(folder)).toEqual(['b.json']);
  expect(await (await machine('other')).take('a')).toBe(true);
});

test('a second command with the name of one that lives is noticed, one after a killed one is not held up', async () => {
  const living = await machine('one');
  await living.take('a');
  expect(await (await SquareBoard.at(folder, 'one', TIMES)).isTaken()).toBe(true);
  await living.close();
  expect(await (await SquareBoard.at(folder, 'one', TIMES)).isTaken()).toBe(false);
  expect(await (await SquareBoard.at(folder, 'two', TIMES)).isTaken()).toBe(false);
});

test('a file that is being written, or is damaged, is somebody’s; silent too long it is taken', async () => {
  await writeFile(join(folder, 'a.json'), '{"by":"on');
  const board = await machine('one');
  expect((await board.look()).get('a')).toMatchObject({ phase: 'classing', isLeft: false });
  expect(await board.take('a')).toBe(false);
  await pause(TIMES.silentMs + 50);
  expect(await board.take('a')).toBe(true);
  expect(JSON.parse(await readFile(join(folder, 'a.json'), 'utf8'))).toMatchObject({ by: 'one' });
});
