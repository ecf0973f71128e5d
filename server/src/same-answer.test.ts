import { createHash } from 'node:crypto';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { slicePoints } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { QUANTISATION, surveyScene } from '@pampero/demo';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { ApiClient } from './server.fixture.js';
import { startServer } from './server.js';

/** Woods on a hill, a quarter of a million points of them: more than one square, and more than one group of nodes. */
let file: Uint8Array;
let data: string;
beforeAll(async () => {
  const { cloud: whole } = surveyScene('wooded-hill', 7);
  const cloud = slicePoints(whole, 0, 250_000);
  const points = { ...cloud, classification: new Uint8Array(cloud.count).fill(1) };
  const sink = bufferSink();
  await writeLas(sink, [points], { version: '1.4', pointFormat: 6, quantisation: QUANTISATION });
  file = sink.bytes();
  data = await mkdtemp(join(tmpdir(), 'pampero-same-'));
}, 120_000);
afterAll(() => rm(data, { recursive: true, force: true }));

/** What does not depend on when and where it was done. */
interface Answer {
  readonly proposal: unknown;
  readonly exported: string;
  /** All of them but the ids, which go by the squares they were built in. */
  readonly nodes: unknown;
  readonly ground: string;
}

async function answerWith(threads: number, memory: number, times: number): Promise<Answer[]> {
  const server = await startServer({
    data: join(data, String(threads)),
    port: 0,
    host: '127.0.0.1',
    workers: threads,
    memory,
    folder: undefined,
    log: 'silent',
  });
  const api = new ApiClient(server.url);
  const answers: Answer[] = [];
  const ids: string[] = [];
  let ground = '';
  try {
    for (let k = 0; k < times; k++) {
      const job = await api.newJob(`Import ${k}`);
      expect((await api.import(job.id, file)).state).toBe('done');
      const cloudId = (await api.read(job.id)).clouds[0]!.id;
      const proposal = await api.call('proposeSettings', `/jobs/${job.id}/clouds/${cloudId}/proposals/find-ground`);
      const { nodes } = await api.call('listNodes', `/jobs/${job.id}/clouds/${cloudId}/nodes`);
      const sum = async (): Promise<string> => {
        const { body } = await api.raw(`/jobs/${job.id}/clouds/${cloudId}/points?format=las`);
        // The header says the day and when it was made.
        return createHash('sha256').update(body.subarray(400)).digest('hex');
      };
      const exported = await sum();
      // Once for each number of threads is enough: it goes by the points.
      if (k === 0) {
        const run = await api.operate(job.id, 'find-ground', { clouds: [cloudId] });
        expect(run.state).toBe('done');
        ground = await sum();
      }
      answers.push({ proposal, exported, nodes: nodes.map(({ id: _, ...node }) => node), ground });
      ids.push(nodes.map(({ id }) => id).join());
      await api.call('removeJob', `/jobs/${job.id}`);
    }
  } finally {
    await server.close();
  }
  expect(new Set(ids).size).toBe(1);
  return answers;
}

describe('the same file', () => {
  test('imported eight times, on one to four threads with little memory and much: one proposal, one ground, one file out', async () => {
    // With other memory the file is cut into other blocks, and the land into other squares.
    const settings = [[1, 380], [2, 500], [3, 400], [4, 1500]] as const; // prettier-ignore
    const answers: Answer[] = [];
    for (const [threads, memory] of settings) answers.push(...(await answerWith(threads, memory, 2)));
    expect(answers).toHaveLength(8);
    for (const answer of answers) expect(answer).toEqual(answers[0]);
  }, 600_000);
});
